"""Holds by cause: what waits, what mending it would free, letting go, and what became of them."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.cause_words import CAUSE_WORDS
from inkwell_bridge.core.configuration.model import LONGEST_RULES
from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.bridges import rules
from inkwell_bridge.service.bridges.api import WITH_PARTS
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import releases
from inkwell_bridge.service.carriage.amounts_api import written
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.holds.freeing import MOST_FOLLOWED, became, preview
from inkwell_bridge.service.holds.groups import Group, groups, of_group
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changes_api import AnswerSerializer, targets_of
from inkwell_bridge.service.people.roles import Role

CAUSES = [str(cause) for cause in Cause]


class SuggestedSerializer(serializers.Serializer[Any]):
    """A value for a key of the rulebook, and what speaks for it."""

    at = serializers.CharField()
    value = serializers.CharField()
    why = serializers.CharField()


class OldestSerializer(serializers.Serializer[Any]):
    """The oldest document of a group."""

    id = serializers.IntegerField(source="oldest")
    number = serializers.CharField(source="oldest_number")
    placed_at = serializers.DateTimeField(source="oldest_at", allow_null=True)


class GroupSerializer(serializers.Serializer[Any]):
    """Documents that wait for one thing, with the money behind them."""

    bridge = serializers.CharField()
    bridge_name = serializers.CharField()
    lane = serializers.CharField()
    state = serializers.CharField()
    cause = serializers.CharField()
    cause_in_words = serializers.SerializerMethodField()
    aspect = serializers.CharField(help_text="What sort of value is to blame, such as: tax class.")
    value = serializers.CharField(help_text="The value, where it is one of the documents' own.")
    mapped_at = serializers.CharField(help_text="The key of the rulebook that would map it; empty where none would.")
    linked_as = serializers.CharField(help_text="The kind of link that would mend it, such as: products; or empty.")
    count = serializers.IntegerField()
    amounts = serializers.SerializerMethodField()
    oldest = OldestSerializer(source="*")
    finding = FindingSerializer(help_text="Of the oldest.")
    suggestion = SuggestedSerializer(allow_null=True)

    def get_cause_in_words(self, group: Group) -> str:
        """Such as: a tax class has no tax code."""
        return CAUSE_WORDS.get(group.cause, group.cause)

    def get_amounts(self, group: Group) -> dict[str, str]:
        """By currency, as text."""
        return {currency: _written(amount, currency) for currency, amount in group.amounts.items()}


def _written(amount: Any, currency: str) -> str:
    try:
        return written(amount, currency) or str(amount)
    except NotExact:
        return str(amount)


_NARROWED = [
    OpenApiParameter("bridge", str, description="Only over this bridge."),
    OpenApiParameter("cause", str, enum=CAUSES, description="Only by this cause."),
    OpenApiParameter("kind", str, description="Only of this lane."),
]


class HoldsView(InWorkspace):
    """What is held, by cause and by the value that is to blame."""

    @extend_schema(operation_id="holds_list", parameters=_NARROWED, responses=GroupSerializer(many=True))
    def get(self, request: Request, workspace: str) -> Response:
        """The most documents first."""
        asked = {name: request.query_params.get(name, "") for name in ("bridge", "cause", "kind")}
        if asked["cause"] and asked["cause"] not in CAUSES:
            raise serializers.ValidationError({"cause": [f"Expected one of {', '.join(CAUSES)}."]})
        if asked["bridge"]:
            self.named(Bridge.current.all(), "bridge", asked["bridge"])
        found = groups(self.workspace, bridge=asked["bridge"], cause=asked["cause"], lane=asked["kind"])
        return Response(GroupSerializer(found, many=True).data)


class ChosenSerializer(Strict):
    """A group of holds."""

    bridge = serializers.CharField(max_length=60)
    cause = serializers.ChoiceField(choices=CAUSES)
    kind = serializers.CharField(max_length=30, required=False, default="")
    value = serializers.CharField(max_length=2000, required=False, allow_blank=True)


class PreviewRequestSerializer(ChosenSerializer):
    """A group, and rules to plan it under: a text, or a version; those in force, where neither is given. ``links`` are
    answers of products as if they stood already."""

    text = serializers.CharField(required=False, max_length=LONGEST_RULES, trim_whitespace=False)
    version = serializers.IntegerField(required=False, min_value=1)
    links = AnswerSerializer(many=True, required=False, max_length=20)


class AgainSerializer(serializers.Serializer[Any]):
    """Why some are held again."""

    text = serializers.CharField()
    count = serializers.IntegerField()


class FreedSerializer(serializers.Serializer[Any]):
    """What would become of a group."""

    of = serializers.IntegerField()
    tried = serializers.IntegerField(help_text="The first of them, where there are very many.")
    would_go = serializers.IntegerField()
    left_out = serializers.IntegerField()
    again = AgainSerializer(many=True)


class OneGroup(InWorkspace):
    """A view about one group of holds."""

    def chosen(self, given: dict[str, Any]) -> tuple[Bridge, list[int]]:
        """Its bridge, and the keys of its documents, the oldest first."""
        bridge: Bridge = self.named(WITH_PARTS, "bridge", given["bridge"])
        rows = of_group(
            self.workspace, bridge=bridge.slug, cause=given["cause"], lane=given["kind"], value=given.get("value")
        )
        return bridge, list(rows.values_list("pk", flat=True))


class PreviewView(OneGroup):
    """What mending would free."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="holds_preview", request=PreviewRequestSerializer, responses=FreedSerializer)
    def post(self, request: Request, workspace: str) -> Response:
        """Plan the group as last fetched under these rules; nothing is sent and nothing kept."""
        given = PreviewRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        bridge, keys = self.chosen(asked)
        if "text" in asked:
            version = rules.unsaved(bridge, asked["text"])
        elif "version" in asked:
            version = self.numbered(bridge.rulebooks.all(), "version", asked["version"], field="number")
        else:
            version = rules.in_force(bridge)
        if version is None:
            raise serializers.ValidationError("No rules are in force, so there is nothing to plan by.")
        links = targets_of(Between.of(bridge, LinkKind.PRODUCTS), asked.get("links", []))
        return Response(FreedSerializer(preview(bridge, version, keys, links=links)).data)


class LetGoSerializer(serializers.Serializer[Any]):
    """How many were let go, and the first of them, to be followed."""

    released = serializers.IntegerField()
    crossings = serializers.ListField(child=serializers.IntegerField())


class LetGoView(OneGroup):
    """Letting a group go."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="holds_release", request=ChosenSerializer, responses=LetGoSerializer)
    def post(self, request: Request, workspace: str) -> Response:
        """Try all of them again under the rules in force."""
        given = ChosenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        _, keys = self.chosen(given.validated_data)
        number = releases.release(Crossing.objects.filter(pk__in=keys), self.workspace, self.person)
        return Response({"released": number, "crossings": keys[:MOST_FOLLOWED]})


class FollowedRequestSerializer(Strict):
    """Documents that were let go."""

    crossings = serializers.ListField(child=serializers.IntegerField(), allow_empty=False, max_length=MOST_FOLLOWED)


class BecameSerializer(serializers.Serializer[Any]):
    """Where documents are now."""

    states = serializers.DictField(child=serializers.IntegerField())
    again = AgainSerializer(many=True)


class FollowedView(InWorkspace):
    """What became of them."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="holds_followed", request=FollowedRequestSerializer, responses=BecameSerializer)
    def post(self, request: Request, workspace: str) -> Response:
        """How many are carried, waiting, held again, and why."""
        given = FollowedRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(BecameSerializer(became(self.workspace, given.validated_data["crossings"])).data)
