"""Trying one order: what it would become, field by field, without sending anything."""

from __future__ import annotations

from dataclasses import dataclass

from inkwell_bridge.core.commerce import Order, Refund, SourceKind
from inkwell_bridge.core.planner import Plan, plan_order
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage.articles import articles_for
from inkwell_bridge.service.carriage.deposits import refunds_by_now
from inkwell_bridge.service.carriage.kinds.base import planning_context
from inkwell_bridge.service.connections.ends import sales_end
from inkwell_bridge.service.connections.vault import Unreadable
from inkwell_bridge.service.reference.pinned import load_master_data, newest_master_data
from inkwell_bridge.service.refusal import Refusal


class CannotTry(Refusal):
    """An order could not be fetched or understood, or there are no rules to try it by."""

    code = "cannot-try"
    hint = "Take the number as the shop shows it, such as MW-10003, and see that both ends are connected."


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """An order as it is now, and what it would become."""

    order: Order
    plan: Plan
    version: RulebookVersion


def try_order(bridge: Bridge, number: str, version: RulebookVersion | None) -> Tried:
    """Fetch one order by its number and plan it under a version of the rules, draft or published.

    Raises:
        CannotTry: with what failed.
    """
    if version is None:
        raise CannotTry(f"{bridge.name} has no rulebook yet, so nothing says what an order becomes.")
    book = parsed(version)
    if book.orders is None:
        raise CannotTry("The rulebook says nothing of orders.")
    blamed = bridge.source
    try:
        fetched = sales_end(bridge.source).document(SourceKind.ORDERS, number)
        blamed = bridge.books
        master_data = newest_master_data(bridge.books) or load_master_data(bridge.books)
    except (EndError, Unreadable) as error:
        raise CannotTry(f"{blamed.name}: {error}") from error
    if not isinstance(fetched.document, Order):
        raise CannotTry(f"{number} could not be understood: {fetched.problem}")
    (articles,) = articles_for([(fetched.document, book.items)], bridge)
    before = tuple(Refund.read(snapshot.content) for snapshot in refunds_by_now(bridge, [fetched.id])[fetched.id])
    context = planning_context(bridge, book, master_data, articles, refunds_before_invoice=before)
    plan = plan_order(fetched.document, context)
    return Tried(order=fetched.document, plan=plan, version=version)
