"""The documents that a rehearsal would change, and each of them under both versions."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.commerce import SourceDocument
from inkwell_bridge.core.planner import Outcome
from inkwell_bridge.core.rehearsal import plan_changes
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.rehearsals import asking
from inkwell_bridge.service.rehearsals.api import OneRehearsal
from inkwell_bridge.service.rehearsals.models import ChangedPlan, Rehearsal
from inkwell_bridge.service.rehearsals.planning import Past, Rules, in_chunks


class PlanChangeSerializer(serializers.Serializer[Any]):
    """A value of a plan that is another; ``at`` is a JSON Pointer into it. Of a buyer's particulars only which."""

    at = serializers.CharField()
    before = serializers.CharField(allow_null=True)
    after = serializers.CharField(allow_null=True)


class ChangedPlanSerializer(ReadOnlySerializer[ChangedPlan]):
    """A document whose plan would be another."""

    kind = serializers.CharField(source="crossing.kind", read_only=True)
    number = serializers.CharField(source="crossing.number", read_only=True)
    before = serializers.ChoiceField(choices=[one.value for one in Outcome])
    after = serializers.ChoiceField(choices=[one.value for one in Outcome])
    changes = PlanChangeSerializer(many=True, read_only=True)

    class Meta:
        model = ChangedPlan
        fields = ("crossing", "kind", "number", "before", "after", "why", "changes")


class ChangedPlansView(OneRehearsal, generics.ListAPIView[ChangedPlan]):
    """The documents that would change."""

    serializer_class = ChangedPlanSerializer
    sort = ("id",)

    def get_queryset(self) -> QuerySet[ChangedPlan]:
        """Of this rehearsal."""
        rows = self.own(ChangedPlan.objects.select_related("crossing"))
        return rows.filter(rehearsal=self.rehearsal()) if self.kwargs else rows


class PlanOfSerializer(serializers.Serializer[Any]):
    """A plan: its outcome, documents, and reasons."""

    outcome = serializers.ChoiceField(choices=[one.value for one in Outcome])
    left_out_by = serializers.CharField(allow_null=True)
    documents = serializers.SerializerMethodField()
    reasons = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)

    @extend_schema_field(serializers.JSONField())
    def get_documents(self, plan: Any) -> Any:
        """What it would become."""
        return [document.as_json() for document in plan.documents]

    @extend_schema_field(serializers.JSONField())
    def get_reasons(self, plan: Any) -> Any:
        """Why each value would stand where it would."""
        return [reason.as_json() for reason in plan.reasons]


class BothPlansSerializer(serializers.Serializer[Any]):
    """A document, and what it becomes under both versions, worked out anew; nothing is kept."""

    kind = serializers.CharField()
    number = serializers.CharField()
    order = serializers.JSONField(help_text="The document as it was last fetched, without who bought.")
    before = PlanOfSerializer(allow_null=True)
    after = PlanOfSerializer()
    changes = PlanChangeSerializer(many=True)


class BothPlansView(OneRehearsal):
    """One document under both versions."""

    @extend_schema(operation_id="rehearsals_changes_read", responses=BothPlansSerializer)
    def get(self, request: Request, workspace: str, number: int, crossing: int) -> Response:
        """Its plan before and after, side by side."""
        rehearsal = self.rehearsal()
        rows = self.own(rehearsal.bridge.crossings.all())
        self.numbered(rows, "document", crossing)
        past = next((one for chunk in in_chunks(rows.filter(pk=crossing)) for one in chunk), None)
        if past is None:
            raise asking.CannotRehearse("This document could not be understood, so no rule decides about it.")
        return Response(BothPlansSerializer(_both(rehearsal, past)).data)


def _both(rehearsal: Rehearsal, past: Past) -> dict[str, Any]:
    after = Rules(rehearsal.rulebook, rehearsal.bridge).plan([past])[0].plan
    before = Rules(rehearsal.since, rehearsal.bridge).plan([past])[0].plan if rehearsal.since else None
    source: SourceDocument = past.source
    return {
        "kind": past.crossing.kind,
        "number": past.crossing.number,
        "order": source.without_people().as_json(),
        "before": before,
        "after": after,
        "changes": [one.as_json() for one in (plan_changes(before, after) if before else ())],
    }
