"""A rulebook, read: every default filled in."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, Literal

from pydantic import field_validator

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, AccountRules
from inkwell_bridge.core.rulebook.bank import BankRules
from inkwell_bridge.core.rulebook.customers import CustomerRules
from inkwell_bridge.core.rulebook.exchange_rates import ExchangeRateRules
from inkwell_bridge.core.rulebook.fields import FieldRule, FieldRules, WarehouseRules
from inkwell_bridge.core.rulebook.items import ItemRules
from inkwell_bridge.core.rulebook.levels import Levelled, rule_of
from inkwell_bridge.core.rulebook.money import PaymentRules, PennyRules, RefundRules
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.core.rulebook.payouts import PayoutRules
from inkwell_bridge.core.rulebook.periods import PeriodRules
from inkwell_bridge.core.rulebook.requests import RequestRules
from inkwell_bridge.core.rulebook.taxes import TaxRules
from inkwell_bridge.core.rulebook.write_offs import WriteOffRules
from inkwell_bridge.core.values import Code, Text, Value

LATER = "later"


class Rulebook(Value):
    """The rules of one bridge; one that carries no orders says nothing of them, nor of accounts and tax.

    ``payouts`` and ``requests`` are absent where none are carried, ``payments`` and ``refunds`` where they are left for
    later, ``items`` where lines are plain text,
    ``exchange_rates`` where the books take rates of their own,
    ``write_offs`` where nothing that is open is given up.
    """

    rulebook: Literal[1] = 1
    name: Text = ""
    based_on: Text = ""
    orders: OrderRules | None = None
    customers: CustomerRules = CustomerRules()
    items: ItemRules | None = None
    accounts: AccountRules | None = None
    tax_codes: TaxRules | None = None
    payments: PaymentRules | None = None
    refunds: RefundRules | None = None
    payouts: PayoutRules | None = None
    bank: BankRules = BankRules()
    requests: RequestRules | None = None
    penny: PennyRules | None = None
    exchange_rates: ExchangeRateRules | None = None
    write_offs: WriteOffRules | None = None
    periods: PeriodRules = PeriodRules()
    fields: FieldRules = FieldRules()
    dimensions: dict[Code, FieldRule] = {}
    warehouses: WarehouseRules = WarehouseRules()

    @field_validator("payments", "refunds", mode="before")
    @classmethod
    def _later(cls, given: Any) -> Any:
        return None if given == LATER else given

    @property
    def settings(self) -> Iterator[tuple[str, Levelled]]:
        """Everything that some sales can have otherwise, by where it stands (JSON Pointer)."""
        if self.orders is not None:
            yield "/orders/become", self.orders.become
            yield "/orders/arrive", self.orders.arrive
        for role in ALLOWED_TYPES:
            account = self.accounts.rule(role) if self.accounts else None
            if account is not None:
                yield f"/accounts/{role}", account
        yield from self.fields.every
        for name, dimension in self.dimensions.items():
            yield f"/dimensions/{escaped(name)}", dimension
        yield "/warehouses", self.warehouses

    @cached_property
    def rows(self) -> dict[tuple[str, str], list[tuple[str, str]]]:
        """What some sales have otherwise, by level and value: the JSON Pointer of each row, and what it gives."""
        found: dict[tuple[str, str], list[tuple[str, str]]] = {}
        for at, setting in self.settings:
            for level, codes in setting.overrides.items():
                for met, code in codes.items():
                    found.setdefault((level, met), []).append((rule_of(at, level, met), code))
        for place, exception in enumerate(self.tax_codes.exceptions if self.tax_codes else ()):
            for level, met in exception.levels.items():
                found.setdefault((level, met), []).append((f"/tax_codes/exceptions/{place}", exception.code))
        return found

    @cached_property
    def attributes(self) -> frozenset[str]:
        """The names of the attributes that some sales have something otherwise by."""
        return frozenset(met.partition("=")[0] for level, met in self.rows if level == "attribute")

    @cached_property
    def asks_of_documents(self) -> bool:
        """Whether any order's documents can differ by more than their lines: else nobody need look."""
        return any(setting.overrides or at.startswith("/fields/") for at, setting in self.settings)

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
