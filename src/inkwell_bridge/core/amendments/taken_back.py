"""Money that was posted and did not stay: what was posted is kept, and beside it stands what takes it back."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from inkwell_bridge.core.books import BooksDocument, Journal, Payment, RefundPayment, Role
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.open_days import KnowsPeriods, on_open_day
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import external_reference

TAKEN_BACK = "taken back"
RULE = "planner:money-taken-back"


def with_money_taken_back(
    wanted: Plan, posted: Sequence[BooksDocument], *, source: str, source_id: str, day: date,
    periods: KnowsPeriods | None, amendment: int,
) -> Plan:  # fmt: skip
    """The plan for what is ``wanted``, with all money that was ``posted`` and is wanted no more, and with what takes
    that back: a receipt by money that went back, and the reverse; a journal by its mirror.

    Shape: of a plan that is left out nothing is wanted. What takes back is dated on ``day``, or the first open one;
    ``amendment`` counts it. It is set against nothing: the books keep what the money settled, and both stand on the
    customer's account.
    """
    references = {one.external_reference for one in wanted.documents}
    gone = [one for one in posted if one.external_reference not in references]
    # What takes back is no money that might be taken back, and each is taken back once.
    backs = {_reference(one, source, source_id) for one in gone if isinstance(one, Payment | Journal)}
    standing = {one.external_reference for one in gone}
    documents, reasons, findings = [*wanted.documents, *gone], list(wanted.reasons), list(wanted.findings)
    for one in gone:
        if not isinstance(one, Payment | Journal):
            raise TypeError(f"no money: {one.role}")
        name = _reference(one, source, source_id)
        if name in standing or one.external_reference in backs:
            continue
        opens, notes, moved = on_open_day(day, periods, place=len(documents), source="/changed_at")
        reasons.append(Reason(target=f"/documents/{len(documents)}/amount", sources=("/amount",), rule=RULE,
                              text=f"{one.text or one.external_reference} did not stay."))  # fmt: skip
        reasons += moved
        findings += [_said(one), *notes]
        documents.append(mirror(one, name, opens))
    return wanted.model_copy(update={
        "outcome": Outcome.CARRY, "left_out_by": None, "documents": tuple(documents), "reasons": tuple(reasons),
        "findings": tuple(findings), "amendment": amendment,
    })  # fmt: skip


def _reference(one: Payment | Journal, source: str, source_id: str) -> str:
    role, transaction = Role.JOURNAL, source_id
    if isinstance(one, Payment):
        role = Role.PAYMENT if isinstance(one, RefundPayment) else Role.REFUND_PAYMENT
        transaction = one.transaction
    return external_reference(source, source_id, role, f"{transaction} {TAKEN_BACK}")


def mirror(one: Payment | Journal, reference: str, day: date) -> BooksDocument:
    """What takes money back that was posted: it stands on the same accounts, and is set against nothing."""
    update = {"external_reference": reference, "date": max(day, one.date), "text": f"{one.text}, {TAKEN_BACK}"[:200]}
    if isinstance(one, Journal):
        # With the references of its lines: by these a clearing account knows that both are of the same money.
        lines = tuple(line.model_copy(update={"base": -line.base, "amount": -line.amount}) for line in one.lines)
        return one.model_copy(update=update | {"lines": lines})
    shape = Payment if isinstance(one, RefundPayment) else RefundPayment
    said = one.model_dump(exclude={"role", "applied"})
    return shape.model_validate(said | update)


def _said(one: Payment | Journal) -> Finding:
    amount = f" of {one.amount} {one.currency}" if isinstance(one, Payment) else ""
    return Finding(
        id="AMEND-N003", level=Level.NOTE, at="/amount",
        text=f"{one.text or 'Money'}{amount} was taken back after it was posted.",
        hint="What it had paid is open again, on the customer's account.",
    )  # fmt: skip
