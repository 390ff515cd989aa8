"""Past source documents as a file, to be planned elsewhere with rules that stand in a repository."""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import date

from django.http import HttpResponseBase, StreamingHttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request

from inkwell_bridge.service.api.period import PeriodSerializer
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.rehearsals.planning import of_period
from inkwell_bridge.service.sessions import give_session_back

CHUNK = 500
LINES = "application/jsonl"


class SourceDocumentsView(OneBridge):
    """The source documents of a bridge, as they were last fetched."""

    @extend_schema(
        operation_id="source_documents_export", parameters=[PeriodSerializer],
        responses={(200, LINES): OpenApiTypes.STR},
    )  # fmt: skip
    def get(self, request: Request, workspace: str, bridge: str) -> HttpResponseBase:
        """JSON Lines: in each an object with the ``kind`` of a document and the ``document`` itself, without the people
        in it. What could not be understood is left out."""
        given = PeriodSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        first, last = given.validated_data["first"], given.validated_data["last"]
        answer = StreamingHttpResponse(_lines(self.bridge(), first, last), content_type=LINES)
        answer["Content-Disposition"] = f'attachment; filename="{bridge}-{first}-{last}.jsonl"'
        return answer


def _lines(bridge: Bridge, first: date, last: date) -> Iterator[str]:
    # Snapshots keep people apart, sealed: what is written here never had them in it.
    rows = of_period(bridge, first, last).filter(snapshot__problem="").values_list("pk", "kind", "snapshot__content")
    after = 0
    while chunk := list(rows.filter(pk__gt=after).order_by("pk")[:CHUNK]):
        after = chunk[-1][0]
        # Whoever reads slowly keeps no session of the database meanwhile.
        give_session_back()
        # The name of the format, not of our lane: whoever reads the file knows nothing of lanes.
        yield "".join(
            f"{json.dumps({'kind': kind_named(kind).source_kind.value, 'document': content}, ensure_ascii=False)}\n"
            for _, kind, content in chunk
        )
