"""Planning the opening balances of a cut-over as one journal.

What is owed to customers (deposits, gift cards, vouchers) is credited to the account of its role, what a provider still
has to pay out is debited to its clearing account, and the rest stands on the account that they come out of.
"""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import Journal, JournalLine, Role
from inkwell_bridge.core.commerce import OpenFor, OpeningBalance, OpeningBalances
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import AllocatedAmount, Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.levels import Chosen

ZERO = Decimal(0)
_ROLES = {OpenFor.DEPOSITS: "deposits", OpenFor.GIFT_CARDS: "gift_cards", OpenFor.VOUCHERS: "vouchers"}


def plan_opening(opening: OpeningBalances, context: PlanningContext) -> Plan:
    """The journal of these balances, or what stands in the way of it."""
    findings = tuple(_wrong(opening, context))
    if findings:
        return Plan(outcome=Outcome.HOLD, findings=findings)
    lines: list[JournalLine] = []
    reasons: list[Reason] = []
    for index, one in enumerate(opening.balances):
        chosen = _account(one, context)
        if chosen is None or not one.amount:
            continue
        base = one.amount if one.of is OpenFor.CLEARING else -one.amount
        reasons += _reasons(index, len(lines), base, one, chosen)
        lines.append(_line(opening, chosen.code, base, one.text or f"Opening balance: {one.of}", f"{index + 1}"))
    rest = -sum((line.base for line in lines), ZERO)
    if rest:
        reasons.append(Reason(target=f"/documents/0/lines/{len(lines)}/base", sources=("/against",),
                              rule="planner:opening-balances", text=f"What is left, {rest}, stands on the account that "
                              f"the balances come out of, {opening.against}."))  # fmt: skip
        lines.append(_line(opening, opening.against, rest, "Opening balances", "against"))
    journal = Journal(
        external_reference=context.external_reference(opening.id, Role.JOURNAL),
        date=opening.opened_on,
        currency=opening.currency,
        text="Opening balances at the cut-over",
        lines=tuple(lines),
    )
    return Plan(outcome=Outcome.CARRY, documents=(journal,), reasons=tuple(reasons))


def _account(one: OpeningBalance, context: PlanningContext) -> Chosen | None:
    if one.of is OpenFor.CLEARING:
        return Chosen(one.account, "/payments/accounts", f"The clearing account {one.account}.")
    role = _ROLES[one.of]
    rule = context.rulebook.accounts.rule(role)
    return Chosen(rule.default, f"/accounts/{role}", f"The account for {role} is {rule.default}.") if rule else None


def _line(opening: OpeningBalances, account: str, base: Decimal, text: str, line_reference: str) -> JournalLine:
    return JournalLine(
        account=account, text=text, base=base, currency=opening.currency, amount=base, line_reference=line_reference
    )


def _reasons(index: int, number: int, base: Decimal, one: OpeningBalance, chosen: Chosen) -> Iterator[Reason]:
    source, target = f"/balances/{index}/amount", f"/documents/0/lines/{number}"
    side = "debited, for it is still to come" if base > 0 else "credited, for it is owed"
    text = f"The opening balance of {one.of}, {one.amount}, is {side}."
    yield Reason(target=f"{target}/base", sources=(source,), rule="planner:opening-balances", text=text,
                 allocated=(AllocatedAmount(source=source, amount=one.amount),))  # fmt: skip
    yield Reason(target=f"{target}/account", sources=(f"/balances/{index}",), rule=chosen.rule, text=chosen.text)


def _wrong(opening: OpeningBalances, context: PlanningContext) -> Iterator[Finding]:
    master_data = context.master_data
    if Role.JOURNAL not in context.capabilities.documents:
        yield _error("OPEN-E001", "", "These books take no journals, so opening balances cannot be posted there.",
                     "Enter them in the books by hand.")  # fmt: skip
    if opening.currency != master_data.currency:
        yield _error("OPEN-E001", "/currency", f"The balances are in {opening.currency}, the books in "
                     f"{master_data.currency}.", "Say them in the books' own currency.")  # fmt: skip
    if master_data.account(opening.against) is None:
        yield _error(
            "OPEN-E002",
            "/against",
            f"Account {opening.against} is not in the books of {master_data.company}.",
            "Name the account that the balances stood on before.",
        )
    if not any(one.amount for one in opening.balances):
        yield _error("OPEN-E001", "/balances", "Every balance is zero.", "Leave them out: there is nothing to post.")
    for index, one in enumerate(opening.balances):
        yield from _wrong_balance(f"/balances/{index}", one, context)


def _wrong_balance(at: str, one: OpeningBalance, context: PlanningContext) -> Iterator[Finding]:
    if _account(one, context) is None:
        yield _error("OPEN-E003", at, f"The rulebook names no account for {one.of}.",
                     f"Add accounts: {_ROLES[one.of]} to the rulebook, then enter the balances again.")  # fmt: skip
    payments = context.rulebook.payments
    known = {code for _, code in payments.accounts.codes()} if payments else set()
    if one.of is OpenFor.CLEARING and one.account not in known:
        yield _error("OPEN-E003", at, f"No payment comes in on account {one.account} by the rules.",
                     f"Those that it does: {', '.join(sorted(known)) or 'none'}.")  # fmt: skip


def _error(code: str, at: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.ERROR, at=at, cause=Cause.RULE_MISSING, text=text, hint=hint)
