"""Setting a bridge up: its checklist, one order tried and sent, what is adopted, what is made in the books."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.planner import STARTS_ON, Outcome
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.rules import unsaved
from inkwell_bridge.service.carriage import adoption, checklist, making, runs, trying
from inkwell_bridge.service.carriage.crossings_api import CrossingSerializer
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.runs_api import RunSerializer
from inkwell_bridge.service.carriage.trying import Tried
from inkwell_bridge.service.links.changes_api import ChangeSerializer
from inkwell_bridge.service.links.links_api import OneKind
from inkwell_bridge.service.people.roles import Role


class StepSerializer(serializers.Serializer[Any]):
    """One step of a set-up; ``needed``: nothing runs without it."""

    id = serializers.CharField()
    title = serializers.CharField()
    state = serializers.ChoiceField(choices=["done", "open", "attention"])
    text = serializers.CharField()
    why = serializers.CharField()
    needed = serializers.BooleanField()


class ChecklistView(OneBridge):
    """How far a bridge's set-up is."""

    @extend_schema(operation_id="bridges_setup", responses=StepSerializer(many=True))
    def get(self, request: Request, workspace: str, bridge: str) -> Response:
        """Every step, in the order of the work, as it stands now."""
        return Response(StepSerializer(checklist.steps(self.bridge()), many=True).data)


class TryRequestSerializer(serializers.Serializer[Any]):
    """An order's number, and the version of the rules to try it by, or the ``text`` of rules that are not kept:
    without either the version in force, or the newest draft where none is."""

    number = serializers.CharField(max_length=120)
    rulebook = serializers.IntegerField(required=False)
    text = serializers.CharField(required=False, max_length=200_000, trim_whitespace=False)


class RuleStepSerializer(serializers.Serializer[Any]):
    """A rule that was asked: by what it goes, the value that was met there, and the code that it gave, if any."""

    by = serializers.CharField()
    met = serializers.CharField()
    gave = serializers.CharField()
    rule = serializers.CharField()


class RuleStepsSerializer(serializers.Serializer[Any]):
    """The rules that were asked for one value of a plan, in their order; the last one answered."""

    target = serializers.CharField()
    steps = RuleStepSerializer(many=True)


class TriedSerializer(serializers.Serializer[Any]):
    """An order as it is now, and what it would become; nothing was sent and nothing kept."""

    number = serializers.CharField(source="order.number")
    rulebook = serializers.IntegerField(source="version.number", allow_null=True, help_text="None of a text.")
    outcome = serializers.CharField(help_text="carry, hold, left out, or adopt: somebody typed it into the books.")
    not_checked = serializers.ListField(child=serializers.CharField(), help_text="What only a run can tell.")
    left_out_by = serializers.SerializerMethodField()
    order = serializers.SerializerMethodField()
    contact = serializers.SerializerMethodField()
    documents = serializers.SerializerMethodField()
    reasons = serializers.SerializerMethodField()
    steps = RuleStepsSerializer(many=True, help_text="The rules that were asked for accounts and codes.")
    open_balance = serializers.CharField(source="plan.open_balance", allow_null=True, read_only=True)
    findings = FindingSerializer(many=True, source="plan.findings")

    def get_left_out_by(self, tried: Tried) -> str:
        """The rule that leaves it out, if one does."""
        starts = STARTS_ON if tried.outcome == Outcome.LEFT_OUT else ""
        return tried.plan.left_out_by or starts

    @extend_schema_field(serializers.JSONField())
    def get_order(self, tried: Tried) -> Any:
        """The order, without who bought."""
        return tried.order.without_people().as_json()

    @extend_schema_field(serializers.JSONField())
    def get_contact(self, tried: Tried) -> Any:
        """Whom its documents would be made out to."""
        return tried.plan.contact.as_json() if tried.plan.contact else None

    @extend_schema_field(serializers.JSONField())
    def get_documents(self, tried: Tried) -> Any:
        """The documents it would become."""
        return [document.as_json() for document in tried.plan.documents]

    @extend_schema_field(serializers.JSONField())
    def get_reasons(self, tried: Tried) -> Any:
        """Why each value would stand where it would."""
        return [reason.as_json() for reason in tried.plan.reasons]


class TryView(OneBridge):
    """Trying one order."""

    @extend_schema(operation_id="bridges_try", request=TryRequestSerializer, responses=TriedSerializer)
    @asks_outside
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Fetch it and plan it, without sending anything."""
        given = TryRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, number = self.bridge(), given.validated_data.get("rulebook")
        text = given.validated_data.get("text")
        version = unsaved(found, text) if text is not None else self.version_to_try(found, number)
        return Response(TriedSerializer(trying.try_order(found, given.validated_data["number"], version)).data)


class AdoptRunView(OneBridge):
    """Adopting what the books hold under our references."""

    @extend_schema(operation_id="bridges_adopt", request=None, responses={201: RunSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Go over all of it in a run; for after a restore from an old backup, before anything else runs."""
        run = runs.start_adopting(self.bridge(), self.person)
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)


class AdoptRequestSerializer(serializers.Serializer[Any]):
    """The books' id of the document that this order is."""

    books_id = serializers.CharField(max_length=120)


class AdoptView(InWorkspace):
    """Adopting what somebody typed into the books for an order."""

    @extend_schema(operation_id="crossings_adopt", request=AdoptRequestSerializer, responses=CrossingSerializer)
    @asks_outside
    def post(self, request: Request, workspace: str, crossing: int) -> Response:
        """Let the order be that document, whatever total it says; nothing is posted for it."""
        given = AdoptRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        rows = self.own(
            Crossing.objects.select_related(
                "workspace", "bridge__company", "bridge__source", "bridge__books__workspace"
            )
        )
        found = self.numbered(rows, "document", crossing)
        adoption.adopt_by_hand(found, given.validated_data["books_id"], self.person)
        return Response(CrossingSerializer(rows.get(pk=crossing)).data)


class CreateRequestSerializer(serializers.Serializer[Any]):
    """The source_id of the one that has no counterpart."""

    key = serializers.CharField(max_length=120)


class CreateView(OneKind):
    """Making an item or contact in the books."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="links_create", request=CreateRequestSerializer, responses=ChangeSerializer)
    @asks_outside
    def post(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Make it, unless the books have it by now, and link it."""
        given = CreateRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        change = making.make(self.between(), given.validated_data["key"], self.person)
        return Response(ChangeSerializer(change).data)
