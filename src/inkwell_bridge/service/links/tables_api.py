"""The table of links: taken out, and brought back."""

from __future__ import annotations

import tempfile
from typing import Any

from django.http import FileResponse, HttpResponseBase, StreamingHttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.links import importing, table_reading, tables
from inkwell_bridge.service.links.links_api import OneKind

_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class TableView(OneKind):
    """The table of links, to be kept, filled in elsewhere and brought back."""

    @extend_schema(
        operation_id="links_table",
        parameters=[OpenApiParameter("form", OpenApiTypes.STR, enum=["csv", "xlsx"], description="csv without it.")],
        responses={(200, "text/csv"): OpenApiTypes.STR, (200, _XLSX): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, workspace: str, bridge: str, kind: str) -> HttpResponseBase:
        """Every row, with what is open leading to nothing."""
        between, form = self.between(), request.query_params.get("form", "csv")
        if form not in {"csv", "xlsx"}:
            raise serializers.ValidationError({"form": [f"Expected csv or xlsx, got {form[:20]!r}."]})
        name = f"{bridge}-{kind}.{form}"
        if form == "csv":
            answer = StreamingHttpResponse(tables.as_csv(between), content_type="text/csv; charset=utf-8")
            answer["Content-Disposition"] = f'attachment; filename="{name}"'
            return answer
        file = tempfile.TemporaryFile()  # noqa: SIM115 the answer closes it
        tables.as_xlsx(between, file)
        file.seek(0)
        return FileResponse(file, as_attachment=True, filename=name, content_type=_XLSX)


class ImportRequestSerializer(serializers.Serializer[Any]):
    """A table of links; ``apply`` puts its good rows in place, else it is only judged."""

    file = serializers.FileField(max_length=200)
    apply = serializers.BooleanField(default=False)


class BadRowSerializer(serializers.Serializer[Any]):
    """A row that cannot be taken; row 1 is the heading."""

    row = serializers.IntegerField()
    column = serializers.CharField()
    text = serializers.CharField()


class PreviewSerializer(serializers.Serializer[Any]):
    """What an import would change, or has changed; of a kit with a bad row nothing is taken.

    ``bad`` names the first 200 of the ``bad_rows``.
    """

    rows = serializers.IntegerField()
    added = serializers.IntegerField()
    changed = serializers.IntegerField()
    unchanged = serializers.IntegerField()
    unanswered = serializers.IntegerField()
    bad_rows = serializers.IntegerField()
    bad = BadRowSerializer(many=True)
    applied = serializers.BooleanField()
    change = serializers.IntegerField(source="change.pk", default=None, allow_null=True)


class ImportView(OneKind):
    """Bringing the table back."""

    parser_classes = (MultiPartParser,)

    @extend_schema(operation_id="links_import", request=ImportRequestSerializer, responses=PreviewSerializer)
    def post(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Judge it and say what it would change; with ``apply``, put the good rows in place, in one change."""
        given = ImportRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file, apply = given.validated_data["file"], given.validated_data["apply"]
        if file.size > table_reading.LARGEST_BYTES:
            text = f"At most {table_reading.LARGEST_BYTES:,} bytes are read; this file has {file.size:,}."
            raise table_reading.UnreadableTable(text)
        between = self.between()
        rows = table_reading.read(between.kind, file.name, file)
        preview = importing.take_in(between, rows, self.person, apply=apply)
        return Response(PreviewSerializer(preview).data)
