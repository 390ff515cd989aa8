"""The log of a document, shown and exported."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.carriage.log import Entry, log_of
from inkwell_bridge.service.carriage.models import Crossing

JSON_LINES = "application/jsonl"


class LogEntrySerializer(serializers.Serializer[Any]):
    """One line: something that happened, or a call to an end with how long it took and what was said."""

    at = serializers.DateTimeField()
    text = serializers.CharField()
    by = serializers.CharField()
    run = serializers.IntegerField(allow_null=True)
    connection = serializers.CharField(help_text="Empty of what is no call.")
    call = serializers.CharField()
    milliseconds = serializers.IntegerField(allow_null=True)
    outcome = serializers.CharField(help_text="Of a call: answered, or what went wrong.")
    sent = serializers.JSONField()
    answered = serializers.JSONField()


class LogView(InWorkspace):
    """What happened to a document, and the calls about it."""

    @extend_schema(operation_id="crossings_log", responses=LogEntrySerializer(many=True))
    def get(self, request: Request, workspace: str, crossing: int) -> Response:
        """In the order of time; without secrets, and without the people in it."""
        return Response(LogEntrySerializer(self.entries(crossing), many=True).data)

    def entries(self, number: int) -> list[Entry]:
        """Of the document of that number."""
        rows = self.own(Crossing.objects.select_related("bridge"))
        return log_of(self.numbered(rows, "document", number))


class LogLinesView(LogView):
    """The same as a file."""

    @extend_schema(
        operation_id="crossings_log_lines",
        responses={(200, JSON_LINES): OpenApiResponse(OpenApiTypes.STR, description="JSON Lines.")},
    )
    def get(self, request: Request, workspace: str, crossing: int) -> HttpResponse:  # type: ignore[override]
        """A line each, as JSON Lines."""
        shown = LogEntrySerializer(self.entries(crossing), many=True).data
        lines = "".join(f"{json.dumps(one, ensure_ascii=False)}\n" for one in shown)
        answer = HttpResponse(lines, content_type=JSON_LINES)
        answer["Content-Disposition"] = f'attachment; filename="log-{crossing}.jsonl"'
        return answer
