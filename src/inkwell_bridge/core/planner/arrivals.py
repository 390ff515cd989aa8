"""Planning the arrival of payouts at the bank: what was on its way stands on the bank account from now on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.books import Journal, JournalLine, MasterData, Role
from inkwell_bridge.core.commerce import Arrival, ArrivedPayout
from inkwell_bridge.core.findings import Cause, source_error
from inkwell_bridge.core.planner.open_days import on_open_day
from inkwell_bridge.core.planner.plan import AllocatedAmount, Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import external_reference
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.periods import PeriodRules

ZERO = Decimal(0)
# In place of the rule that leaves one out.
OF_NOTHING = "planner:arrival-of-nothing"


@record
class ArrivalContext:
    """All that the plan of an arrival depends on besides itself.

    Shape: ``source`` is the unchanging name of the provider's connection; ``locked_until`` is the newest lock date of
    the books, where ``master_data`` is older.
    """

    source: str
    periods: PeriodRules
    master_data: MasterData
    locked_until: date | None = None


def plan_arrival(arrival: Arrival, context: ArrivalContext) -> Plan:
    """The journal of an arrival: the bank is debited (credited where it was collected), and each payout taken from
    where it stood. One that nothing is left of is left out."""
    moved = [(place, part) for place, part in enumerate(arrival.parts) if part.account != arrival.account]
    if not moved:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=OF_NOTHING)
    come_to = sum((part.amount for part in arrival.parts), ZERO)
    if come_to != arrival.amount:
        wrong = source_error(
            "ARRIVAL-E001", "/amount",
            f"The payouts of line {arrival.number} come to {come_to}, and its amount is {arrival.amount}.",
            "Take back what was matched there, and match it anew.",
        )  # fmt: skip
        return Plan(outcome=Outcome.HOLD, findings=(wrong,))
    if arrival.currency != context.master_data.currency:
        wrong = source_error(
            "ARRIVAL-E002", "/currency",
            f"Line {arrival.number} is in {arrival.currency}, the books in {context.master_data.currency}.",
            "Enter its journal by hand in the books, then leave it out.", cause=Cause.CURRENCY_NOT_KEPT,
        )  # fmt: skip
        return Plan(outcome=Outcome.HOLD, findings=(wrong,))
    # What stood on the bank account already is not moved, and not posted again.
    total = sum((part.amount for _, part in moved), ZERO)
    sums = [(arrival.account, total, "Arrived" if total > 0 else "Collected"),
            *((part.account, -part.amount, f"Payout {part.number}") for _, part in moved)]  # fmt: skip
    periods = context if context.periods.locked == "first open day" else None
    day, notes, moved_reasons = on_open_day(arrival.booked_on, periods, place=0, source="/booked_on")
    journal = Journal(
        external_reference=external_reference(context.source, arrival.id, Role.JOURNAL),
        date=day,
        currency=arrival.currency,
        text=f"Bank line {arrival.number}: {', '.join(part.number for _, part in moved)}"[:250],
        lines=tuple(
            JournalLine(account=account, text=text, base=amount, currency=arrival.currency, amount=amount,
                        line_reference=f"{number}")
            for number, (account, amount, text) in enumerate(sums, start=1)
        ),
    )  # fmt: skip
    reasons = (*_reasons(arrival, moved), *moved_reasons)
    return Plan(outcome=Outcome.CARRY, documents=(journal,), reasons=reasons, findings=tuple(notes))


def _reasons(arrival: Arrival, moved: Sequence[tuple[int, ArrivedPayout]]) -> Iterator[Reason]:
    sources = tuple(f"/parts/{place}/amount" for place, _ in moved)
    yield Reason(target="/documents/0/lines/0/base", sources=sources, rule="planner:arrival",
                 text=f"What the bank booked on {arrival.booked_on}.")  # fmt: skip
    for number, ((_, part), source) in enumerate(zip(moved, sources, strict=True), start=1):
        yield Reason(target=f"/documents/0/lines/{number}/base", sources=(source,), rule="/payouts/on_its_way",
                     text=f"Payout {part.number} stood on {part.account} until the bank had it.",
                     allocated=(AllocatedAmount(source=source, amount=part.amount),))  # fmt: skip
