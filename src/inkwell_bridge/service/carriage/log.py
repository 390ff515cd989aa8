"""The log of a document: what happened to it, and every call to an end about it, in the order of time."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from datetime import datetime
from time import monotonic
from typing import Any, NamedTuple, TypeVar

from inkwell_bridge.core.cause_words import CAUSE_WORDS
from inkwell_bridge.service.carriage.models import Crossing, Exchange
from inkwell_bridge.service.carriage.states import EventKind

MOST_ENTRIES = 5000
Answer = TypeVar("Answer")


def timed(kept: Exchange, work: Callable[[], Answer]) -> Callable[[], Answer]:
    """The same call, which notes how long it took, whether it was answered or not."""

    def call() -> Answer:
        began = monotonic()
        try:
            return work()
        finally:
            kept.milliseconds = round((monotonic() - began) * 1000)

    return call


class Entry(NamedTuple):
    """One line of the log. A call has ``connection``, ``call``, ``milliseconds``, ``outcome`` and what was said."""

    at: datetime
    text: str
    by: str = ""
    run: int | None = None
    connection: str = ""
    call: str = ""
    milliseconds: int | None = None
    outcome: str = ""
    sent: Any = None
    answered: Any = None


def log_of(crossing: Crossing) -> list[Entry]:
    """Everything kept of a document, the first first. Secrets and people were never written down."""
    return sorted([*_events(crossing), *_calls(crossing)], key=lambda entry: entry.at)[:MOST_ENTRIES]


def _events(crossing: Crossing) -> Iterator[Entry]:
    for event in crossing.events.select_related("person").order_by("pk"):
        by = event.person.email if event.person else ""
        yield Entry(at=event.at, text=event_in_words(event.kind, event.detail), by=by, run=event.run_id)


def event_in_words(kind: str, detail: Mapping[str, Any]) -> str:
    """What happened, such as: Held for a person: a tax class has no tax code. Tax class 'reduced' has …"""
    said = [CAUSE_WORDS.get(str(detail["cause"]), str(detail["cause"])) if detail.get("cause") else ""]
    said += [str(detail[name]) for name in ("role", "number", "rule", "what", "note") if detail.get(name)]
    said += [str(detail["text"])] if detail.get("text") else []
    told = "; ".join(part for part in said if part)
    return f"{EventKind(kind).label}: {told}" if told else str(EventKind(kind).label)


def _calls(crossing: Crossing) -> Iterator[Entry]:
    documents = [(one.connection_id, one.external_reference) for one in crossing.documents.all()]
    ends = {crossing.bridge.source_id, *(pk for pk, _ in documents)}
    references = [reference for _, reference in documents]
    rows = Exchange.objects.select_related("connection").filter(
        workspace=crossing.workspace_id, connection__in=ends, external_reference__in=references
    )
    for one in rows.order_by("pk")[:MOST_ENTRIES]:
        outcome = one.failure or "answered"
        yield Entry(
            at=one.at, text=f"{one.connection.name}: {one.call}", connection=one.connection.slug, call=one.call,
            milliseconds=one.milliseconds, outcome=outcome, sent=one.sent, answered=one.answered,
        )  # fmt: skip
