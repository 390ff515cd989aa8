"""A journal whose source changed after it was posted: the difference, as a further journal.

What was posted is never touched. Both are summed by account and by what a line says, so that together they are what the
source says now, under every account.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.amendments.explaining import RULE
from inkwell_bridge.core.books import Journal, JournalLine
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.open_days import KnowsPeriods, on_open_day
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# What a line stands on and says, where the journals of a source are compared.
_Place = tuple[str, str]


@record
class PostedJournals:
    """What stands in the books of a source that becomes a journal, and the plan that it was posted by.

    Shape: ``amendments`` counts the differences that were posted already; ``documents`` are those of ``plan`` that
    stand there, the first one first.
    """

    documents: Sequence[Journal]
    plan: Plan
    amendments: int = 0


@dataclass(slots=True)
class _Sums:
    """Debits less credits of one place: in what is posted, and in what is wanted, with the reasons of the latter."""

    posted: Decimal = ZERO
    wanted: Decimal = ZERO
    sources: tuple[str, ...] = ()
    coded: Reason | None = None


def plan_journal_amendment(
    wanted: Plan, there: PostedJournals, *, external_reference: str, day: date, periods: KnowsPeriods | None
) -> Plan:
    """The plan that brings the books to ``wanted``: what stands there, and a journal of the difference after it.

    Shape: ``day`` is that of the change; with ``periods`` a locked one makes way for the first open day. A plan that is
    left out wants nothing, and all that was posted is taken back. Without a difference nothing is added.
    """
    if wanted.outcome is Outcome.HOLD:
        return wanted
    sums = _summed(wanted, there.documents)
    lines = [(place, one) for place, one in sums.items() if one.wanted != one.posted]
    kept = there.plan.model_copy(update={"documents": tuple(there.documents), "findings": wanted.findings,
                                         "outcome": Outcome.CARRY, "left_out_by": None})  # fmt: skip
    if not lines:
        return kept
    first = there.documents[0]
    place = len(there.documents)
    opens, notes, moved = on_open_day(day, periods, place=place, source="/changed_at")
    journal = Journal(
        external_reference=external_reference,
        date=opens,
        currency=first.currency,
        text=f"{first.text}, changed"[:250],
        lines=tuple(
            JournalLine(account=account, text=text, base=one.wanted - one.posted, currency=first.currency,
                        amount=one.wanted - one.posted, line_reference=f"{number}")
            for number, ((account, text), one) in enumerate(lines, start=1)
        ),
    )  # fmt: skip
    findings = (*wanted.findings, _said(first, lines), *notes)
    changed_on = Reason(target=f"/documents/{place}/date", sources=("/changed_at",), rule="planner:date-changed",
                        text="The day it was changed.")  # fmt: skip
    reasons = (*there.plan.reasons, *(moved or [changed_on]), *_reasons(place, lines))
    return kept.model_copy(update={"documents": (*there.documents, journal), "reasons": reasons, "findings": findings,
                                   "amendment": there.amendments + 1})  # fmt: skip


def _summed(wanted: Plan, posted: Sequence[Journal]) -> Mapping[_Place, _Sums]:
    """Every place of both, in the order of what is wanted and then of what is gone."""
    by_target = {reason.target: reason for reason in wanted.reasons}
    found: dict[_Place, _Sums] = {}
    for index, document in enumerate(wanted.documents):
        if isinstance(document, Journal):
            for number, line in enumerate(document.lines):
                sums = found.setdefault((line.account, line.text), _Sums())
                sums.wanted += line.base
                why = by_target.get(f"/documents/{index}/lines/{number}/base")
                sums.sources += why.sources if why else ()
                sums.coded = by_target.get(f"/documents/{index}/lines/{number}/account")
    for document in posted:
        for line in document.lines:
            found.setdefault((line.account, line.text), _Sums()).posted += line.base
    return found


def _reasons(place: int, lines: Sequence[tuple[_Place, _Sums]]) -> Iterator[Reason]:
    for number, ((_, text), one) in enumerate(lines):
        said = f"{text}: {one.wanted} by now, {one.posted} stood in the books."
        target = f"/documents/{place}/lines/{number}"
        yield Reason(target=f"{target}/base", sources=one.sources, rule=RULE, text=said)
        if one.coded is not None:
            yield Reason(target=f"{target}/account", sources=one.coded.sources, rule=one.coded.rule,
                         text=one.coded.text)  # fmt: skip


def _said(first: Journal, lines: Sequence[tuple[_Place, _Sums]]) -> Finding:
    named = "; ".join(f"{text} {one.wanted} in place of {one.posted}" for (_, text), one in lines[:3])
    more = f"; {len(lines) - 3} more" if len(lines) > 3 else ""
    return Finding(
        id="AMEND-N006", level=Level.NOTE,
        text=f"{first.text} changed after it was posted, and this journal makes the difference: {named}{more}.",
        hint="What was posted stays as it is; together they are what it says now.",
    )  # fmt: skip
