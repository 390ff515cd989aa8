"""A rulebook, read: every default filled in."""

from __future__ import annotations

from datetime import date
from typing import Literal

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
    """The rules of one bridge."""

    rulebook: Literal[1] = 1
    name: Text = ""
    orders: OrderRules
    customers: CustomerRules = CustomerRules()
    accounts: AccountRules
    tax_codes: TaxRules
    payments: Literal["later"] = "later"
    penny: PennyRules
