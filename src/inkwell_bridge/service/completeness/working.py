"""Working out a check: what is listed beside what is here, and what becomes of the rest."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple, TypeVar

import structlog
from django.db.models import Count, Exists, F, Model, OuterRef, Q, QuerySet, Sum
from django.utils import timezone

from inkwell_bridge.core.completeness import (
    Became,
    CompletenessResult,
    EnteredInBooks,
    KindCompleteness,
    NamedDocument,
    NotCompared,
    NumberGap,
    SumIn,
    counted_otherwise,
    number_gaps,
)
from inkwell_bridge.core.planner import is_ours
from inkwell_bridge.core.text import fit, fit_line
from inkwell_bridge.ends.errors import EndError, Misstated
from inkwell_bridge.service.asked_work import WorkState
from inkwell_bridge.service.carriage import gone, staging
from inkwell_bridge.service.carriage.kinds import lane_kinds
from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.completeness import books_side, lacking
from inkwell_bridge.service.completeness.asking import is_of_sheet, kinds_of
from inkwell_bridge.service.completeness.listing import Period, Stopped, read_listed
from inkwell_bridge.service.completeness.models import CompletenessCheck, ListedRow
from inkwell_bridge.service.connections.ends import dialect_of, sales_end

log = structlog.get_logger("inkwell.completeness")

# So many are asked for in one go.
BATCH, CHUNK = 100, 10_000
# So many of each are named one by one; all are counted.
MOST_NAMED = 200
# More may only vanish where most are there still.
MOST_GONE = 20


_Row = TypeVar("_Row", bound=Model)


class Found(NamedTuple):
    """A document that is not the same on both sides; ``key`` is its crossing's, where there is one."""

    source_id: str
    number: str
    currency: str
    gross: Any
    day: Any
    key: int | None = None


def work(check: CompletenessCheck) -> None:
    """Hold what the sales side lists of the days against what is here, kind by kind, and fetch what is not.

    Begun again, it comes to the same.

    Raises:
        EndError: the sales side does not answer.
    """
    if not check.while_active.update(state=WorkState.RUNNING, done=0, trouble=""):
        return
    check.done, period = 0, Period.of(check)
    ListedRow.objects.filter(check_of=check).delete()
    try:
        kinds = [_compared(check, kind, period) for kind in kinds_of(check.bridge)]
        in_books = _in_books(check)
    except Stopped:
        return
    finally:
        # Whatever was read so far is of no use to anybody, where the rest is not.
        ListedRow.objects.filter(check_of=check).delete()
    result = CompletenessResult(kinds=tuple(kinds), not_compared=tuple(_not_compared(check)), in_books=in_books)
    check.while_active.update(state=WorkState.ENDED, ended_at=timezone.now(), result=fit(result.as_json()),
                              complete=result.complete)  # fmt: skip
    log.info("completeness.checked", workspace=check.workspace_id, check=check.pk, complete=result.complete)


def _not_compared(check: CompletenessCheck) -> Iterator[NotCompared]:
    """The lanes that carry to the books and cannot be checked."""
    listed = dialect_of(check.bridge.source).capabilities.lists_periods
    lanes = {lane.kind: lane for lane in check.bridge.lanes.filter(on=True)}
    for kind in lane_kinds():
        lane = lanes.get(kind.name)
        if lane is None or not is_of_sheet(kind):
            continue
        if kind.source_kind not in listed:
            yield NotCompared(kind=kind.name, why=f"{check.bridge.source.name} does not list them by day")
        elif lane.read_up_to is None:
            yield NotCompared(kind=kind.name, why="Nothing was read yet")


def _in_books(check: CompletenessCheck) -> EnteredInBooks:
    """What was entered in the books on accounts of sales, which counts there from now on."""
    bridge, why_not = check.bridge, books_side.cannot_be_read(check.bridge)
    accounts = [] if why_not else books_side.accounts_of_sales(bridge)
    if not accounts:
        return EnteredInBooks(why_not=why_not)
    try:
        found = books_side.read_entered(check, accounts)
    except EndError as error:
        # Books that do not answer are no reason to lose what the sales side said.
        return EnteredInBooks(why_not=fit_line(str(error), 500))
    if not check.while_active.exists():
        raise Stopped
    books_side.keep(bridge, check.first, check.last, found)
    ours = sum(is_ours(one.external_reference) for one in found)
    return EnteredInBooks(accounts=tuple(accounts), by_hand=len(found) - ours, not_posted_here=ours,
                          numbers=tuple(one.number for one in found[:MOST_NAMED]))  # fmt: skip


def _compared(check: CompletenessCheck, kind: Kind, period: Period) -> KindCompleteness:
    end: Any = sales_end(check.bridge.source)
    told = read_listed(check, end, kind, period)
    compare = _Comparison(check, kind, period, end)
    compare.fetch_missing()
    compare.fetch_changed()
    compare.look_for_gone()
    listed, counted = compare.listed_sums(), None if told is None else tuple(sorted(told, key=lambda one: one.currency))
    more = counted_otherwise(counted, listed)
    # A side that counts itself, and lists as many, has no order under a number that is missing.
    gaps = compare.gaps() if more or told is None else []
    result = KindCompleteness(
        kind=kind.name, listed=listed, told=counted, here=compare.sums_here(), counts=dict(compare.counts),
        documents=tuple(compare.named), counted_otherwise=more, gaps=tuple(gaps),
    )  # fmt: skip
    if not check.while_active.exists():
        raise Stopped
    lacking.keep(check, kind, compare.not_fetched, more, [] if told is not None else gaps)
    return result


class _Comparison:
    """One kind of a check, while it is held against what is here."""

    def __init__(self, check: CompletenessCheck, kind: Kind, period: Period, end: Any) -> None:
        self._check, self._kind, self._period, self._end = check, kind, period, end
        self._bridge = check.bridge
        self.counts: Counter[Became] = Counter()
        self.named: list[NamedDocument] = []
        self.not_fetched: list[Found] = []

    @property
    def _listed(self) -> QuerySet[ListedRow]:
        return ListedRow.objects.filter(check_of=self._check, kind=self._kind.name)

    @property
    def _here(self) -> QuerySet[Crossing]:
        return Crossing.objects.filter(workspace=self._check.workspace_id, bridge=self._bridge, kind=self._kind.name)

    @property
    def _here_in_period(self) -> QuerySet[Crossing]:
        return self._here.filter(moment__gte=self._period.first, moment__lt=self._period.before)

    def fetch_missing(self) -> None:
        """Fetch what is listed and was never read."""
        same = self._here.filter(source_id=OuterRef("source_id"))
        for rows in _batches(self._listed.exclude(Exists(same))):
            some = self._of_list(rows)
            self._fetch(some)
            here = self._here.filter(source_id__in=[one.source_id for one in some])
            came = set(here.values_list("source_id", flat=True))
            for one in some:
                is_here = one.source_id in came
                self._note(Became.FETCHED if is_here else Became.NOT_FETCHED, one)
                if not is_here:
                    self.not_fetched.append(one)

    def fetch_changed(self) -> None:
        """Read anew what is listed with another amount or another moment than it was read with, and what was thought to
        be gone; what only says so, and is the same when it is read, is no matter."""
        other = (
            ~Q(gross=OuterRef("gross")) | ~Q(currency=OuterRef("currency")) | ~Q(moment=OuterRef("placed_at"))
            | Q(gone_at__isnull=False)
        )  # fmt: skip
        # What could not be understood has no amount; it is held, and read again until it can be.
        differing = self._here.filter(other, source_id=OuterRef("source_id"), gross__isnull=False)
        for rows in _batches(self._listed.filter(Exists(differing))):
            some = self._of_list(rows)
            before = self._snapshots(some)
            self._fetch(some)
            after = self._snapshots(some)
            for one in some:
                if before.get(one.source_id) != after.get(one.source_id):
                    self._note(Became.READ_ANEW, one)

    def look_for_gone(self) -> None:
        """Ask by its id for what was read and is not listed: a list may leave some out. What is gone is taken off
        the sales side."""
        same = self._listed.filter(source_id=OuterRef("source_id"))
        here = self._here_in_period.filter(gone_at=None).exclude(source_id="")
        not_listed = here.exclude(Exists(same))
        self._refuse_too_many(not_listed.count(), here.count())
        for rows in _batches(not_listed.only("source_id", "number", "currency", "gross", "business_date")):
            some = [
                Found(one.source_id, one.number, one.currency, one.gross, one.business_date, one.pk) for one in rows
            ]
            there = self._fetch(some)
            missed = [one for one in some if one.source_id not in there]
            gone.mark_gone(self._bridge, [one.key for one in missed if one.key is not None])
            for one in some:
                self._note(Became.THERE if one.source_id in there else Became.GONE, one)

    def _refuse_too_many(self, not_listed: int, here: int) -> None:
        """Whoever lists less than half of what was read has another trouble than a deleted order."""
        if not_listed > MOST_GONE and not_listed * 2 > here:
            raise Misstated(
                f"{self._bridge.source.name} lists only {here - not_listed} of the {here} {self._kind.name} that were "
                "read of these days. Nothing was taken for gone: see whether its key may still read all of them, or "
                "whether it has put them into an archive."
            )

    def gaps(self) -> list[NumberGap]:
        """Numbers of which nothing is known, not even on other days."""
        numbers = self._listed.values_list("number", flat=True).union(
            self._here_in_period.values_list("number", flat=True)
        )
        found = number_gaps(numbers.iterator(chunk_size=CHUNK))
        known = Crossing.objects.filter(
            workspace=self._check.workspace_id, bridge__source=self._bridge.source_id, kind=self._kind.name,
            number__in=[gap.number for gap in found],
        )  # fmt: skip
        elsewhere = set(known.values_list("number", flat=True))
        return [gap for gap in found if gap.number not in elsewhere]

    def listed_sums(self) -> tuple[SumIn, ...]:
        """What is listed, by currency."""
        return _sums(self._listed)

    def sums_here(self) -> tuple[SumIn, ...]:
        """What is here of the period, by currency."""
        return _sums(self._here_in_period.filter(gone_at=None, gross__isnull=False))

    def _of_list(self, rows: Sequence[ListedRow]) -> list[Found]:
        zone = self._period.first.tzinfo
        return [Found(row.source_id, row.number, row.currency, row.gross, row.placed_at.astimezone(zone).date())
                for row in rows]  # fmt: skip

    def _fetch(self, some: Sequence[Found]) -> set[str]:
        """Read these by their ids, and keep them as a run would; answers those that are there."""
        if not self._check.while_active.exists():
            raise Stopped
        fetched = self._end.fetch_by_ids(self._kind.source_kind, [one.source_id for one in some])
        staging.keep_page(self._bridge, self._kind, fetched)
        return {one.id for one in fetched}

    def _snapshots(self, some: Sequence[Found]) -> dict[str, tuple[Any, ...]]:
        rows = self._here.filter(source_id__in=[one.source_id for one in some])
        return {one: rest for one, *rest in rows.values_list("source_id", "snapshot", "gone_at")}  # type: ignore[misc]

    def _note(self, became: Became, one: Found) -> None:
        self.counts[became] += 1
        if self.counts[became] <= MOST_NAMED:
            self.named.append(NamedDocument(became=became, number=one.number, currency=one.currency, gross=one.gross))


def _sums(rows: QuerySet[Any]) -> tuple[SumIn, ...]:
    sums = rows.order_by().values("currency").annotate(number=Count("pk"), come_to=Sum(F("gross"))).order_by("currency")
    return tuple(SumIn(currency=row["currency"], count=row["number"], gross=row["come_to"]) for row in sums)


def _batches(rows: QuerySet[_Row]) -> Iterator[list[_Row]]:
    """These rows by their keys, some at a time; asked for anew each time, for what becomes of some may be told by the
    next."""
    after = 0
    while some := list(rows.filter(pk__gt=after).order_by("pk")[:BATCH]):
        yield some
        after = some[-1].pk
