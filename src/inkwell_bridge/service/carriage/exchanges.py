"""Calls that change something in the books: what was sent and answered is kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from inkwell_bridge.core.books import Held
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.carriage.models import Document, Exchange


def exchange(document: Document, call: str, work: Callable[[], Held], *, sent: dict[str, Any] | None = None) -> Held:
    """Do ``work`` and keep what was sent and what came back, or why nothing did.

    The intent stands on the document before the call goes out; this is the record of it afterwards.
    """
    kept = Exchange(
        workspace_id=document.workspace_id, crossing_id=document.crossing_id, mark=document.mark, call=call, sent=sent
    )
    try:
        answer = work()
    except EndError as error:
        kept.failure = str(error)
        kept.save()
        raise
    kept.answered = answer.as_json()
    kept.save()
    return answer
