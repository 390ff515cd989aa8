"""Planning past documents under a version of the rules, many at once, and nothing of it is kept."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date
from typing import NamedTuple

import structlog
from django.db.models import QuerySet

from inkwell_bridge.core.commerce import SourceDocument
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext, as_a_run_would
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.holding import Hold
from inkwell_bridge.service.carriage.kinds import all_kinds, kind_named
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Gathered
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.connections.models import ReferenceLoad
from inkwell_bridge.service.later import TryLater
from inkwell_bridge.service.reference.pinned import load_master_data, master_data_of, newest_master_data
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.rehearsals")

CHUNK = 200


class Past(NamedTuple):
    """A document as it was last fetched, and its crossing."""

    crossing: Crossing
    source: SourceDocument


class Planned(NamedTuple):
    """What a document becomes under some rules, and the context that it was planned in, where it needed one."""

    plan: Plan
    context: PlanningContext | None


def of_period(bridge: Bridge, first: date, last: date) -> QuerySet[Crossing]:
    """The documents of a period that rules decide about, by their own day on the company's clocks."""
    kinds = [one.name for one in all_kinds().values() if one.has_lane and one.direction is Direction.SALES_TO_BOOKS]
    return Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind__in=kinds, business_date__range=(first, last)
    )


def in_chunks(rows: QuerySet[Crossing]) -> Iterator[list[Past]]:
    """The documents of these crossings, so many at a time: all of one kind, read from the newest snapshot. What cannot
    be understood is passed over, for no rule changes that."""
    with_all = rows.select_related("snapshot__personal").defer("planned", "pinned", "findings")
    for kind in rows.order_by("kind").values_list("kind", flat=True).distinct():
        after = 0
        while chunk := list(with_all.filter(kind=kind, pk__gt=after).order_by("pk")[:CHUNK]):
            after = chunk[-1].pk
            read = ((one, _document(one)) for one in chunk if not one.snapshot.problem)
            yield [Past(one, document) for one, document in read if document is not None]


def _document(crossing: Crossing) -> SourceDocument | None:
    try:
        try:
            return document_of(crossing.snapshot)
        except Unreadable:
            # No key opens who bought any more: all else of it can be planned.
            crossing.snapshot.personal = None
            return document_of(crossing.snapshot)
    except DocumentInvalid:
        # Kept by an earlier version, whose shapes were wider.
        return None


class Rules:
    """A version of the rules, and the books' master data as it is now."""

    def __init__(self, version: RulebookVersion, bridge: Bridge) -> None:
        self.version, self.book = version, parsed(version)
        self._bridge = bridge
        self._master_data: ReferenceLoad = newest_master_data(bridge.books) or load_master_data(bridge.books)
        self.master_data = master_data_of(self._master_data)

    def plan(self, past: Sequence[Past]) -> list[Planned]:
        """The plan of each, as a run would make it if nothing of it had been posted yet.

        Reads the database as often for a hundred as for one; all are of one kind.
        """
        if not past:
            return []
        kind = kind_named(past[0].crossing.kind)
        carryings = [self._carrying(one) for one in past]
        found = kind.gather(carryings)
        return [self._planned(one, gathered) for one, gathered in zip(carryings, found, strict=True)]

    def _carrying(self, past: Past) -> Carrying:
        # One bridge, and with it one row of each end, for all of them.
        past.crossing.bridge = self._bridge
        # What was kept when it was posted does not count here, and is not read either.
        past.crossing.pinned = {}
        return Carrying(
            crossing=past.crossing, kind=kind_named(past.crossing.kind), target=self._bridge.books, documents=[],
            shares=[], source=past.source, under=(self.version, self._master_data),
        )  # fmt: skip

    def _planned(self, carrying: Carrying, gathered: Gathered | Exception) -> Planned:
        if isinstance(gathered, Hold):
            return Planned(Plan(outcome=Outcome.HOLD, findings=(gathered.finding,)), None)
        if isinstance(gathered, TryLater):
            # Whatever goes before it, goes before it under any rules.
            return Planned(Plan(outcome=Outcome.HOLD), None)
        if isinstance(gathered, Exception):
            raise gathered
        source = carrying.source
        assert source is not None
        try:
            plan = gathered.ready or carrying.kind.plan(source, gathered)
        except Exception:
            # One that the program fails on is held when it is carried, and stops nothing here either.
            log.exception("rehearsal.document-failed", crossing=carrying.crossing.pk)
            return Planned(Plan(outcome=Outcome.HOLD), None)
        context = gathered.context if isinstance(gathered.context, PlanningContext) else None
        return Planned(as_a_run_would(plan, (), self.master_data), context)
