"""What the orders of a rehearsal hold, and which rule maps it."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponseBase, StreamingHttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.coverage import Aspect, Standing
from inkwell_bridge.service.rehearsals.api import OneRehearsal
from inkwell_bridge.service.rehearsals.tables import coverage_csv


class RuleUseSerializer(serializers.Serializer[Any]):
    """A rule that answered for a value: a JSON Pointer, what it gave, and for how many orders."""

    rule = serializers.CharField()
    gave = serializers.CharField()
    orders = serializers.IntegerField()


class RuleSuggestionSerializer(serializers.Serializer[Any]):
    """What would map a value: a key of the rulebook (a JSON Pointer), the value for it, and what speaks for that."""

    at = serializers.CharField()
    value = serializers.CharField()
    why = serializers.CharField()


class MetValueSerializer(serializers.Serializer[Any]):
    """A value that orders hold, the orders and the money (by currency) behind it, and what the rules make of it."""

    aspect = serializers.ChoiceField(choices=[one.value for one in Aspect])
    value = serializers.CharField()
    standing = serializers.ChoiceField(choices=[one.value for one in Standing])
    orders = serializers.IntegerField()
    unmapped = serializers.IntegerField()
    amounts = serializers.DictField(child=serializers.CharField())
    rules = RuleUseSerializer(many=True)
    rates = serializers.ListField(child=serializers.CharField())
    examples = serializers.ListField(child=serializers.CharField())
    suggestion = RuleSuggestionSerializer(allow_null=True)


class CoverageView(OneRehearsal):
    """What the orders of a rehearsal hold."""

    @extend_schema(
        operation_id="rehearsals_coverage",
        responses=MetValueSerializer(many=True),
        parameters=[OpenApiParameter("unmapped", bool, description="Only what no rule maps.")],
    )
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """Value by value, by which rule each is mapped, or that none maps it; nothing before it has ended."""
        values = self.rehearsal().coverage
        if str(request.query_params.get("unmapped", "")).lower() in {"true", "1"}:
            values = [one for one in values if one["standing"] == Standing.UNMAPPED]
        return Response(values)


class CoverageTableView(OneRehearsal):
    """The same as a file."""

    @extend_schema(operation_id="rehearsals_coverage_table", responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, workspace: str, number: int) -> HttpResponseBase:
        """As CSV (RFC 4180), a row for each value."""
        rehearsal = self.rehearsal()
        name = f"coverage-{rehearsal.bridge.slug}-{rehearsal.first}-{rehearsal.last}.csv"
        return StreamingHttpResponse(
            coverage_csv(rehearsal.coverage), content_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": f'attachment; filename="{name}"'},
        )  # fmt: skip
