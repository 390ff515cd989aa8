"""Rulebooks: the versions of a bridge's rules, and what all of a client's build on."""

from __future__ import annotations

import re
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.http import Http404
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.rulebook.reader import BASE_NAME
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges import bases, rules
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.models import BaseRulebook, RulebookVersion
from inkwell_bridge.service.people.roles import Role


class LayerSerializer(serializers.Serializer[Any]):
    """A base rulebook that a version builds on, as it was then; ``newest`` is its newest version by now."""

    name = serializers.CharField()
    number = serializers.IntegerField()
    newest = serializers.IntegerField()


class RulebookSerializer(serializers.ModelSerializer[RulebookVersion]):
    """A version of a bridge's rules; ``file`` is the name that errors call it by."""

    text = serializers.CharField(max_length=200_000, trim_whitespace=False)
    file = serializers.CharField(write_only=True, required=False, default="rulebook.yaml", max_length=200)
    after = serializers.IntegerField(
        write_only=True,
        required=False,
        min_value=1,
        max_value=10**6,
        help_text="The version that it began from: refused (409 written-meanwhile) where there is a newer one by now.",
    )
    note = serializers.CharField(required=False, allow_blank=True, default="", max_length=500)
    author = serializers.CharField(source="author.email", default="", read_only=True)
    findings = serializers.SerializerMethodField()
    layers = serializers.SerializerMethodField()

    class Meta:
        model = RulebookVersion
        fields = (
            "number",
            "text",
            "file",
            "after",
            "note",
            "author",
            "created_at",
            "published_at",
            "findings",
            "layers",
        )
        read_only_fields = ("number", "published_at")

    @extend_schema_field(FindingSerializer(many=True))
    def get_findings(self, version: RulebookVersion) -> list[dict[str, Any]]:
        """What the books do not have of what it names."""
        file = self.context.get("file", "rulebook.yaml")
        return [finding.as_json() for finding in rules.findings_of(version, file=file)]

    @extend_schema_field(LayerSerializer(many=True))
    def get_layers(self, version: RulebookVersion) -> list[dict[str, Any]]:
        """What it builds on, the nearest first."""
        rows = BaseRulebook.objects.filter(
            workspace=version.workspace_id, name__in=[layer["name"] for layer in version.layers]
        )
        last = {row.name: row.number for row in bases.newest_of_each(rows)}
        return [
            {"name": layer["name"], "number": layer["number"], "newest": last.get(layer["name"], layer["number"])}
            for layer in version.layers
        ]


class RulebookHeadSerializer(ReadOnlySerializer[RulebookVersion]):
    """A version as it is listed, without its text."""

    author = serializers.CharField(source="author.email", default="", read_only=True)

    class Meta:
        model = RulebookVersion
        fields = ("number", "author", "created_at", "published_at", "note")


class RulebooksView(OneBridge, generics.ListAPIView[RulebookVersion]):
    """The versions of a bridge's rules."""

    serializer_class = RulebookHeadSerializer
    needs = {"POST": Role.EDIT}
    sort = ("-number",)

    def get_queryset(self) -> QuerySet[RulebookVersion]:
        """Of this bridge."""
        rows = self.own(RulebookVersion.objects.select_related("author"))
        return rows.filter(bridge=self.bridge()) if self.kwargs else rows

    @extend_schema(operation_id="rulebooks_write", request=RulebookSerializer, responses={201: RulebookSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Write a draft. A text that is no rulebook is refused with every error and its line."""
        given = RulebookSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said, bridge = given.validated_data, self.bridge()
        file, number = said["file"], said.get("after")
        after = None if number is None else self.numbered(bridge.rulebooks.all(), "version", number, field="number")
        version = rules.write_draft(bridge, self.person, said["text"], file=file, after=after, note=said["note"])
        return Response(RulebookSerializer(version, context={"file": file}).data, status=status.HTTP_201_CREATED)


class StarterSerializer(serializers.Serializer[Any]):
    """The text of a rulebook to start from."""

    text = serializers.CharField()


class StarterView(OneBridge):
    """Rules to start from."""

    @extend_schema(operation_id="rulebooks_starter", responses=StarterSerializer)
    def get(self, request: Request, workspace: str, bridge: str) -> Response:
        """Rules made from the reference data of both ends, each choice marked as proposed; nothing is kept."""
        return Response({"text": rules.to_start_from(self.bridge())})


class OneRulebook(OneBridge):
    """A view about one version."""

    def version(self) -> RulebookVersion:
        """The version named in the address."""
        rows = self.own(RulebookVersion.objects.select_related("author", "workspace", "bridge__books"))
        of_bridge = rows.filter(bridge=self.bridge())
        found: RulebookVersion = self.numbered(of_bridge, "version", self.kwargs["number"], field="number")
        return found


class RulebookView(OneRulebook):
    """One version."""

    @extend_schema(operation_id="rulebooks_read", responses=RulebookSerializer)
    def get(self, request: Request, workspace: str, bridge: str, number: int) -> Response:
        """Its text, and what the books do not have of what it names."""
        return Response(RulebookSerializer(self.version()).data)


class PublishRequestSerializer(Strict):
    """What there is to say of it."""

    note = serializers.CharField(required=False, allow_blank=True, default="", max_length=500)


class PublishView(OneRulebook):
    """Publishing a version."""

    needs = {"POST": Role.PUBLISH}

    @extend_schema(operation_id="rulebooks_publish", request=PublishRequestSerializer, responses=RulebookSerializer)
    def post(self, request: Request, workspace: str, bridge: str, number: int) -> Response:
        """Put it in force; refused where it names what the books do not have."""
        given = PublishRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file, note = str(request.query_params.get("file", "rulebook.yaml"))[:200], given.validated_data["note"]
        return Response(RulebookSerializer(rules.publish(self.version(), self.person, file=file, note=note)).data)


class TakeUpAgainView(OneRulebook):
    """Going back to an earlier version."""

    needs = {"POST": Role.PUBLISH}

    @extend_schema(operation_id="rulebooks_take_up_again", request=None, responses={201: RulebookSerializer})
    def post(self, request: Request, workspace: str, bridge: str, number: int) -> Response:
        """Put one that was in force before in force again, as a new version of the same text."""
        again = rules.take_up_again(self.version(), self.person)
        return Response(RulebookSerializer(again).data, status=status.HTTP_201_CREATED)


class RuleChangeSerializer(serializers.Serializer[Any]):
    """One thing that is otherwise, in words; ``at`` is a JSON Pointer into the rulebook."""

    at = serializers.CharField()
    text = serializers.CharField()


class ChangesView(OneRulebook):
    """A version beside another."""

    @extend_schema(
        operation_id="rulebooks_compare",
        responses=RuleChangeSerializer(many=True),
        parameters=[OpenApiParameter("since", int, description="The version before; the one in force if left out.")],
    )
    def get(self, request: Request, workspace: str, bridge: str, number: int) -> Response:
        """How it differs from the version in force, or in the one named; defaults filled in on both sides."""
        after, since = self.version(), request.query_params.get("since", "")
        if since and not since.isdecimal():
            raise serializers.ValidationError({"since": ["Expected the number of a version."]})
        if since:
            rows = self.own(RulebookVersion.objects.all())
            before = self.numbered(rows.filter(bridge=after.bridge), "version", int(since[:9]), field="number")
        else:
            before = rules.in_force(after.bridge) or after
        return Response([change.as_json() for change in rules.compared(before, after)])


_NAME = re.compile(BASE_NAME.replace("$", r"\Z"))


class BaseHeadSerializer(ReadOnlySerializer[BaseRulebook]):
    """A base rulebook as it is listed."""

    author = serializers.CharField(source="author.email", default="", read_only=True)

    class Meta:
        model = BaseRulebook
        fields = ("name", "number", "author", "created_at")


class DraftedSerializer(serializers.Serializer[Any]):
    """A bridge that builds on a base: its newest version, and the version of the base that this was written on."""

    bridge = serializers.CharField()
    rulebook = serializers.IntegerField()
    on = serializers.IntegerField()
    published = serializers.BooleanField()
    errors = serializers.IntegerField()


class BaseSerializer(BaseHeadSerializer):
    """A version of a base rulebook, and the bridges that build on it."""

    bridges = serializers.SerializerMethodField()

    class Meta(BaseHeadSerializer.Meta):
        fields = (*BaseHeadSerializer.Meta.fields, "text", "bridges")  # type: ignore[assignment]

    @extend_schema_field(DraftedSerializer(many=True))
    def get_bridges(self, base: BaseRulebook) -> list[dict[str, Any]]:
        """Each with its newest version."""
        return [
            {
                "bridge": version.bridge.slug,
                "rulebook": version.number,
                "on": next(layer["number"] for layer in version.layers if layer["name"] == base.name),
                "published": version.published_at is not None,
                "errors": sum(finding.level == "error" for finding in rules.findings_of(version)),
            }
            for version in bases.built_on(base)
        ]


class BaseWriteSerializer(serializers.Serializer[Any]):
    """A base rulebook to be kept; with ``redraft`` the bridges that build on it are drafted anew."""

    name = serializers.RegexField(_NAME, help_text="Such as client.yaml: what rulebooks say under based_on.")
    text = serializers.CharField(max_length=200_000, trim_whitespace=False)
    redraft = serializers.BooleanField(default=False)


class BasesView(InWorkspace, generics.ListAPIView[BaseRulebook]):
    """What the rulebooks of this client build on."""

    serializer_class = BaseHeadSerializer
    needs = {"POST": Role.EDIT}
    sort = ("name",)

    def get_queryset(self) -> QuerySet[BaseRulebook]:
        """Of each the newest version."""
        return bases.newest_of_each(self.own(BaseRulebook.objects.select_related("author")))

    @extend_schema(operation_id="base_rulebooks_write", request=BaseWriteSerializer, responses={201: BaseSerializer})
    @transaction.atomic
    def post(self, request: Request, workspace: str) -> Response:
        """Write a version. The bridges that build on it go on as they are, or with ``redraft`` get a new draft each."""
        given = BaseWriteSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        base = bases.write(self.workspace, self.person, said["name"], said["text"])
        if said["redraft"]:
            rules.draft_anew(base, self.person)
        return Response(BaseSerializer(base).data, status=status.HTTP_201_CREATED)


class BaseView(InWorkspace):
    """One base rulebook."""

    @extend_schema(operation_id="base_rulebooks_read", responses=BaseSerializer)
    def get(self, request: Request, workspace: str, name: str) -> Response:
        """Its newest version, with the bridges that build on it."""
        base = bases.newest(self.workspace, name)
        if base is None:
            raise Http404
        return Response(BaseSerializer(base).data)
