"""What the sales side lists of the days, read page by page into a table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from inkwell_bridge.core.completeness import ListedDocument, SumIn
from inkwell_bridge.core.text import fit_name
from inkwell_bridge.ends.contract import ListsPeriods
from inkwell_bridge.ends.every_page import every_page
from inkwell_bridge.service import clock
from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.completeness.models import CompletenessCheck, ListedRow
from inkwell_bridge.service.statistics import MANY, analyse_table

ONE_DAY = timedelta(days=1)
# Shops take a moment until an order stands in their lists.
SETTLES_WITHIN = timedelta(minutes=10)


class Stopped(Exception):
    """Somebody cancelled it, or it goes on in another worker."""


@dataclass(frozen=True, slots=True)
class Period:
    """The days of a check, as moments: from ``first`` and before ``before``, by the sales side's own clocks, and never
    up to now: what is placed while the list is read would be counted by the one page and not by the other."""

    first: datetime
    before: datetime

    @classmethod
    def of(cls, check: CompletenessCheck) -> Period:
        """From the first midnight to the one after the last day; what was placed before the bridge's start, by the
        company's clocks, is no matter."""
        bridge, zone = check.bridge, check.bridge.source_zone
        first, before = (datetime.combine(day, time(), zone) for day in (check.first, check.last + ONE_DAY))
        if bridge.starts_on:
            starts = datetime.combine(bridge.starts_on, time(), ZoneInfo(bridge.company.time_zone))
            first = max(first, starts.astimezone(zone))
        return cls(first, max(min(before, (clock.now() - SETTLES_WITHIN).astimezone(zone)), first))


def read_listed(
    check: CompletenessCheck, end: ListsPeriods, kind: Kind, period: Period
) -> tuple[SumIn, ...] | None:  # fmt: skip
    """Read all pages of a kind; answers what the sales side counts itself, where it does.

    Raises:
        EndError: it does not answer, or what it says cannot be read.
        Stopped: it is not wanted any more.
    """
    told: dict[str, SumIn] | None = None
    done = check.done
    for answer in every_page(
        lambda page: end.of_period(kind.source_kind, period.first, period.before, page=page), of="the list of some days"
    ):
        _keep(check, kind, answer.documents)
        done += len(answer.documents)
        if not check.while_active.update(done=done):
            raise Stopped
        if answer.told is not None:
            told = {**(told or {}), **{one.currency: one for one in answer.told.sums}}
    check.done = done
    if done >= MANY:
        analyse_table(ListedRow)
    return tuple(told.values()) if told is not None else None


def _keep(check: CompletenessCheck, kind: Kind, documents: Sequence[ListedDocument]) -> None:
    rows: list[Any] = [
        ListedRow(
            workspace_id=check.workspace_id, check_of=check, kind=kind.name, source_id=fit_name(one.id),
            number=fit_name(one.number or one.id), placed_at=one.placed_at, changed_at=one.changed_at,
            currency=one.currency[:3], gross=one.gross,
        )
        for one in documents
    ]  # fmt: skip
    ListedRow.objects.bulk_create(rows, ignore_conflicts=True)
