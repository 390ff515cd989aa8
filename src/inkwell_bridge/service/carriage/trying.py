"""Trying one order: what a run would make of it, field by field, without sending anything."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from inkwell_bridge.core.commerce import Order, Refund, SourceKind
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.planner import Outcome, Plan, RuleSteps, as_a_run_would, expected_role, plan_order, rule_steps
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.ends.errors import EndError, Refused
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage import adoption
from inkwell_bridge.service.carriage.articles import articles_for
from inkwell_bridge.service.carriage.contacts import contact_in_books, linked_contacts
from inkwell_bridge.service.carriage.daily_rates import rates_for
from inkwell_bridge.service.carriage.deposits import refunds_by_now
from inkwell_bridge.service.carriage.effects import Ask, Call, Effects, Lock, Save
from inkwell_bridge.service.carriage.holding import Hold
from inkwell_bridge.service.carriage.kinds.base import Versions, against_books, planning_context
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.connections.models import ReferenceLoad
from inkwell_bridge.service.reference.pinned import load_master_data, newest_master_data
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.vault import Unreadable


class CannotTry(Refusal):
    """An order could not be fetched or understood, or there are no rules to try it by."""

    code = "cannot-try"
    hint = "Take the number as the shop shows it, such as MW-10003, and see that both ends are connected."


class NoSuchOrder(CannotTry):
    """The source has no order of that number."""

    status = 404
    code = "no-such-order"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """An order as it is now, and what a run would make of it.

    Shape: ``outcome`` is that of the plan, or ``adopt`` where somebody has typed the order into the books already.
    ``not_checked`` names what nobody can know beforehand; ``steps`` are the rules that were asked for its accounts and
    codes.
    """

    order: Order
    plan: Plan
    version: RulebookVersion
    outcome: str
    not_checked: Sequence[str]
    steps: Sequence[RuleSteps]


# The books' own word comes last: rules of their own are nobody else's to know.
_UNKNOWN = "whether the books themselves would take it"


def try_order(bridge: Bridge, number: str, version: RulebookVersion | None) -> Tried:
    """Fetch one order by its number and plan it under a version of the rules, draft or published.

    Calls: the order at the source; what bears its number in the books, and its customer there. Nothing is written.

    Raises:
        CannotTry: with what failed.
    """
    if version is None:
        raise CannotTry(f"{bridge.name} has no rulebook yet, so nothing says what an order becomes.")
    book = parsed(version)
    if book.orders is None:
        raise CannotTry("The rulebook says nothing of orders.")
    order, load = _fetched(bridge, number)
    (articles,) = articles_for([(order, book.items)], bridge)
    before = tuple(Refund.read(snapshot.content) for snapshot in refunds_by_now(bridge, [order.id])[order.id])
    (daily,) = rates_for([(order, book)], bridge)
    context = planning_context(bridge, book, load, articles, refunds_before_invoice=before, daily_rates=daily)
    wrong = against_books(Versions(bridge), version, load)
    plan = as_a_run_would(plan_order(order, context), wrong, context.master_data)
    outcome, not_checked = str(plan.outcome), [_UNKNOWN]
    if plan.outcome is not Outcome.LEFT_OUT:
        try:
            outcome, findings = _asked_of_the_books(bridge, order, plan, book, context.day(order.placed_at))
            plan = plan.model_copy(update={"findings": (*plan.findings, *findings)})
        except (EndError, Unreadable) as error:
            not_checked += [f"its customer in the books, and whether somebody typed it in: {error}"]
    steps = rule_steps(plan, order, context.rulebook)
    return Tried(order=order, plan=plan, version=version, outcome=outcome, not_checked=not_checked, steps=steps)


def _fetched(bridge: Bridge, number: str) -> tuple[Order, ReferenceLoad]:
    """The order as it is now, and the books' lists."""
    blamed = bridge.source
    try:
        fetched = sales_end(bridge.source).document(SourceKind.ORDERS, number)
        blamed = bridge.books
        load = newest_master_data(bridge.books) or load_master_data(bridge.books)
    except (EndError, Unreadable) as error:
        missing = blamed == bridge.source and isinstance(error, Refused) and error.why == "not found"
        raise (NoSuchOrder if missing else CannotTry)(f"{blamed.name}: {error}") from error
    if not isinstance(fetched.document, Order):
        raise CannotTry(f"{number} could not be understood: {fetched.problem}")
    return fetched.document, load


def _asked_of_the_books(
    bridge: Bridge, order: Order, plan: Plan, book: Rulebook, day: date
) -> tuple[str, Sequence[Finding]]:  # fmt: skip
    """What a run asks of the books before it posts anything, in its order."""
    books = books_end(bridge.books)
    crossing = Crossing(bridge=bridge, number=order.number, gross=order.total, currency=order.currency,
                        business_date=day)  # fmt: skip
    role = expected_role(plan, order, book.for_orders.orders)
    try:
        if role in adoption.ROLES and role in books.capabilities.documents:
            (bearing,) = adoption.under_numbers((books, role), [order.number])
            typed = adoption.typed_in(crossing, bearing)
            if typed is not None:
                return "adopt", typed[1]
        if adoption.before_start(crossing):
            return str(Outcome.LEFT_OUT), ()
        linked = order.buyer is not None and linked_contacts(bridge, [order.buyer])[0]
        if plan.contact is not None and not linked:
            _rehearse(contact_in_books(plan.contact, bridge.books, books, book.customers))
    except Hold as held:
        return str(Outcome.HOLD), (held.finding,)
    return str(plan.outcome), ()


def _rehearse(work: Effects[str]) -> None:
    """Go through work as far as it only reads: up to where it would first write something down.

    Raises:
        Hold: as the work does.
    """
    answer: Any = None
    with contextlib.suppress(StopIteration):
        while True:
            effect = work.send(answer)
            if isinstance(effect, Save):
                return
            if isinstance(effect, Ask):
                (answer,) = effect.question(effect.to, [effect.about])
            elif isinstance(effect, Call):
                answer = effect.work()
            else:
                answer = isinstance(effect, Lock)
