"""Paging by cursor: pages stay right while rows are added."""

from __future__ import annotations

from typing import Any

from rest_framework.pagination import CursorPagination
from rest_framework.request import Request
from rest_framework.response import Response


class CursorPages(CursorPagination):
    """``{"items": [...], "next": ..., "previous": ...}``, with Link headers (RFC 8288)."""

    page_size = 50
    page_size_query_param = "limit"
    max_page_size = 200
    ordering = "-id"

    def get_ordering(self, request: Request, queryset: Any, view: Any) -> tuple[str, ...]:
        """The view's ``sorts`` offers orders by name, asked for as ``sort``."""
        sorts: dict[str, tuple[str, ...]] = getattr(view, "sorts", {})
        return sorts.get(request.query_params.get("sort", ""), getattr(view, "sort", ("-id",)))

    def get_paginated_response(self, data: Any) -> Response:
        """A page, and where to go on."""
        onward, back = self.get_next_link(), self.get_previous_link()
        links = [f'<{link}>; rel="{name}"' for name, link in (("next", onward), ("prev", back)) if link]
        headers = {"Link": ", ".join(links)} if links else {}
        return Response({"items": data, "next": onward, "previous": back}, headers=headers)

    def get_paginated_response_schema(self, schema: dict[str, Any]) -> dict[str, Any]:
        """The page in the OpenAPI document."""
        link = {"type": ["string", "null"], "format": "uri"}
        return {
            "type": "object",
            "required": ["items", "next", "previous"],
            "properties": {"items": schema, "next": link, "previous": link},
        }
