"""Calls that change something in the books: the intent written before, what was sent and answered kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from inkwell_bridge.core.books import Held
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.carriage.models import Document, Exchange


def exchange(document: Document, call: str, work: Callable[[], Held], *, sent: dict[str, Any] | None = None) -> Held:
    """Do ``work`` and keep what was sent and what came back, or why nothing did."""
    kept = Exchange.objects.create(workspace_id=document.workspace_id, document=document, call=call, sent=sent)
    try:
        answer = work()
    except EndError as error:
        kept.failure = str(error)
        kept.save(update_fields=["failure"])
        raise
    kept.answered = answer.as_json()
    kept.save(update_fields=["answered"])
    return answer
