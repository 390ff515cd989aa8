"""A rulebook, read: every default filled in."""

from __future__ import annotations

from datetime import date
from functools import cached_property
from typing import Literal

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.values import Code, Exact, Text, Value


class OrderRules(Value):
    """Which orders cross, and as what."""

    become: Literal["invoice"] = "invoice"
    arrive: Literal["posted", "draft"] = "posted"
    statuses: tuple[Code, ...]
    placed_from: date | None = None


class CustomerRules(Value):
    """Whom a document is made out to."""

    find_by: Literal["email"] = "email"
    not_found: Literal["create", "hold"] = "create"
    without_email: Code | None = None
    update: Literal["never", "always"] = "never"


class AccountRules(Value):
    """Ledger accounts by role."""

    sales: Code
    shipping: Code
    rounding: Code


class TaxRules(Value):
    """Tax codes by the shop's classes, and the one outside tax."""

    by_class: dict[str, Code]
    outside: Code


class PennyRules(Value):
    """What becomes of a difference between the shop's and the books' totals."""

    allowance: Exact
    goes_to: Literal["rounding account", "hold"] = "rounding account"


class Rulebook(Value):
    """The rules of one bridge; one that carries no orders says nothing of them, nor of accounts and tax."""

    rulebook: Literal[1] = 1
    name: Text = ""
    orders: OrderRules | None = None
    customers: CustomerRules = CustomerRules()
    accounts: AccountRules | None = None
    tax_codes: TaxRules | None = None
    payments: Literal["later"] = "later"
    penny: PennyRules | None = None

    @cached_property
    def for_orders(self) -> OrderRulebook:
        """The same, of a bridge that carries orders.

        Raises:
            NoRulesForOrders: it says nothing of them.
        """
        if self.orders is None:
            raise NoRulesForOrders("The rulebook says nothing of orders.")
        return OrderRulebook.model_validate(self.model_dump())


class OrderRulebook(Rulebook):
    """A rulebook that says all that orders need."""

    orders: OrderRules
    accounts: AccountRules
    tax_codes: TaxRules
    penny: PennyRules


class NoRulesForOrders(InkwellError):
    """A bridge carries orders by a rulebook that says nothing of them."""
