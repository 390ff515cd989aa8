"""The day of a document in books whose earlier periods are locked."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from typing import Protocol

from inkwell_bridge.core.books import BooksDocument, Field, Invoice, MasterData, Role, TradeDocument
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.plan import Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.periods import PeriodRules
from inkwell_bridge.core.values import LONGEST_TEXT

RULE = "/periods/locked"
# What is said of a document that was dated on the first open day.
MOVED_BY_RULE = "DATE-N002"
ONE_DAY = timedelta(days=1)


def on_open_days(plan: Plan, context: PlanningContext, *, keep: Sequence[str] = ()) -> Plan:
    """The plan with every document on a day that is open, where the rules want that; those to ``keep`` stand already.

    The tax of an invoice falls on the day that it fell on. The own day is kept in the field that the rules name, or in
    the text.
    """
    if context.rulebook.periods.locked == "hold":
        return plan
    documents: list[BooksDocument] = []
    moved: dict[int, tuple[date, date]] = {}
    for place, document in enumerate(plan.documents):
        day: date | None = getattr(document, "date", None)
        opens = first_open_day(day, context) if day else None
        if day is None or opens is None or opens == day or document.external_reference in keep:
            documents.append(document)
        else:
            moved[place] = (day, opens)
            documents.append(_moved(document, day, opens, context))
    if not moved:
        return plan
    others = [one for one in plan.reasons if not any(one.target == f"/documents/{place}/date" for place in moved)]
    return plan.model_copy(update={
        "documents": tuple(documents),
        "reasons": (*others, *_reasons(moved)),
        "findings": (*plan.findings, *_findings(plan, moved)),
    })  # fmt: skip


def on_own_days(context: PlanningContext) -> PlanningContext:
    """The context under which every document keeps its own day, for a plan that is only compared."""
    rules = context.rulebook.model_copy(update={"periods": PeriodRules()})
    return context.model_copy(update={"rulebook": rules})


class KnowsPeriods(Protocol):
    """Whoever knows which days the books have locked."""

    @property
    def locked_until(self) -> date | None:
        """Up to when, as far as anybody knows by now."""

    @property
    def master_data(self) -> MasterData:
        """The books' own, with their periods."""


def first_open_day(day: date, context: KnowsPeriods) -> date:
    """The day itself, or the first after it that the books have not locked."""
    books = context.master_data
    locked = max(filter(None, (context.locked_until, books.locked_until)), default=None)
    if locked is not None and day <= locked:
        day = locked + ONE_DAY
    closed = sorted((one for one in books.periods if not one.open), key=lambda one: one.first)
    for period in closed:
        if period.first <= day <= period.last:
            day = period.last + ONE_DAY
    return day


def _moved(document: BooksDocument, day: date, opens: date, context: PlanningContext) -> BooksDocument:
    update: dict[str, object] = {"date": opens}
    if isinstance(document, Invoice):
        update["tax_point"] = document.tax_point or day
    if isinstance(document, TradeDocument):
        name = context.rulebook.periods.own_date
        if name and context.capabilities.further_fields:
            update["fields"] = (*document.fields, Field(name=name, value=day.isoformat()))
        else:
            update["text"] = f"{document.text} Its own day: {day.isoformat()}.".strip()[:LONGEST_TEXT]
    return document.model_copy(update=update)


def on_open_day(
    own: date, periods: KnowsPeriods | None, *, place: int, source: str
) -> tuple[date, list[Finding], list[Reason]]:  # fmt: skip
    """The day of a journal whose own day that is, what there is to say of it, and why it is that; ``place`` is the
    journal's among the documents, ``source`` where its own day stands. Without ``periods`` it keeps its own."""
    opens = first_open_day(own, periods) if periods is not None else own
    if opens == own:
        return own, [], []
    return opens, [_finding(Role.JOURNAL, place, own, opens)], [_reason(place, source, own, opens)]


def _reasons(moved: dict[int, tuple[date, date]]) -> Iterator[Reason]:
    for place, (day, opens) in moved.items():
        yield _reason(place, "/placed_at", day, opens)


def _findings(plan: Plan, moved: dict[int, tuple[date, date]]) -> Iterator[Finding]:
    for place, (day, opens) in moved.items():
        yield _finding(plan.documents[place].role, place, day, opens)


def _reason(place: int, source: str, own: date, opens: date) -> Reason:
    return Reason(target=f"/documents/{place}/date", sources=(source,), rule=RULE,
                  text=f"The books are locked on {own}: {opens} is the first open day.")  # fmt: skip


def _finding(role: str, place: int, own: date, opens: date) -> Finding:
    return Finding(id=MOVED_BY_RULE, level=Level.NOTE, at=f"/documents/{place}/date",
                   text=f"The {role} is dated {opens}, for the books are locked on its own day, {own}.",
                   hint="The rulebook's rule /periods/locked says so.")  # fmt: skip
