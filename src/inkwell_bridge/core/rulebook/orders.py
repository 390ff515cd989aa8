"""Which orders cross, as what, and how their lines are said."""

from __future__ import annotations

from datetime import date
from typing import Literal

from inkwell_bridge.core.expressions import Condition
from inkwell_bridge.core.values import Code, Value


class LeaveOut(Value):
    """Orders that are left out, counted under a name of their own."""

    name: Code
    when: Condition


class OrderRules(Value):
    """Which orders cross, and as what.

    Shape: an order crosses in one of ``statuses``, from ``placed_from`` on, where ``only`` holds and nothing of
    ``leave_out`` does. ``dated`` and ``tax_point`` are the moment that the document's day and its tax's day come from.
    """

    become: Literal["invoice", "sales order", "cash sale"] = "invoice"
    arrive: Literal["posted", "draft"] = "posted"
    statuses: tuple[Code, ...]
    placed_from: date | None = None
    only: Condition | None = None
    leave_out: tuple[LeaveOut, ...] = ()
    currencies: Literal["own", "kept"] = "own"
    dated: Literal["placed", "paid"] = "placed"
    tax_point: Literal["document", "placed", "paid"] = "document"
    due_after_days: int | None = None
    discounts: Literal["in lines", "own lines"] = "in lines"
    kits: Literal["as sold", "components"] = "as sold"
    packs: Literal["as sold", "pieces"] = "as sold"


class CustomerRules(Value):
    """Whom a document is made out to.

    Shape: ``house`` is the contact that stands for the buyers of ``house_for``; ``without_email`` for buyers who
    gave none.
    """

    find_by: Literal["email"] = "email"
    not_found: Literal["create", "hold", "house"] = "create"
    without_email: Code | None = None
    house: Code | None = None
    house_for: Literal["nobody", "guests", "everybody"] = "nobody"
    update: Literal["never", "always"] = "never"
