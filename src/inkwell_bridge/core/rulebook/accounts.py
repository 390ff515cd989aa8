"""Ledger accounts by role: a default for each, and what goes before it, in a fixed order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any, NamedTuple

from pydantic import model_validator

from inkwell_bridge.core.books import AccountType
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Code, Value

_INCOME, _EXPENSE, _LIABILITY = AccountType.INCOME, AccountType.EXPENSE, AccountType.LIABILITY
# The types a role may use, by trade practice: money on the wrong type is found only at year end.
ALLOWED_TYPES: dict[str, frozenset[AccountType]] = {
    "sales": frozenset({_INCOME}),
    "shipping": frozenset({_INCOME}),
    "discounts": frozenset({_INCOME, _EXPENSE}),
    "goodwill": frozenset({_INCOME, _EXPENSE}),
    "tips": frozenset({_INCOME, _LIABILITY}),
    "donations": frozenset({_LIABILITY}),
    "duties": frozenset({_INCOME, _LIABILITY}),
    "surcharges": frozenset({_INCOME}),
    "gift_cards": frozenset({_LIABILITY}),
    "vouchers": frozenset({_LIABILITY}),
    "deposits": frozenset({_LIABILITY}),
    "tax": frozenset({_LIABILITY}),
    "rounding": frozenset({_EXPENSE, _INCOME}),
}
MONEY_TYPES = frozenset({AccountType.BANK, AccountType.ASSET})
# What an override can hang on, first to last: the first that fits wins.
PRECEDENCE = ("product", "product_type", "customer", "customer_group", "channel", "country", "treatment")


@record
class Facts:
    """What overrides look at, of one line of one document."""

    product: str = ""
    product_type: str = ""
    customer: str = ""
    customer_group: str = ""
    channel: str = ""
    country: str = ""
    treatment: str = ""


class Chosen(NamedTuple):
    """A code, the rule that chose it (a JSON Pointer into the rulebook), and why, in words."""

    code: str
    rule: str
    text: str


def tables(rule: Value, precedence: Sequence[str]) -> dict[str, dict[str, Code]]:
    """The tables of a rule that say anything, by what they hang on, in the order in which they are tried."""
    every: dict[str, dict[str, Code]] = {name: getattr(rule, f"by_{name}") for name in precedence}
    return {name: codes for name, codes in every.items() if codes}


class AccountRule(Value):
    """The account of one role. A plain code is the default alone."""

    default: Code
    by_product: dict[str, Code] = {}
    by_product_type: dict[str, Code] = {}
    by_customer: dict[str, Code] = {}
    by_customer_group: dict[str, Code] = {}
    by_channel: dict[str, Code] = {}
    by_country: dict[str, Code] = {}
    by_treatment: dict[str, Code] = {}

    @model_validator(mode="before")
    @classmethod
    def _plain_code(cls, given: Any) -> Any:
        return {"default": given} if isinstance(given, str) else given

    @cached_property
    def overrides(self) -> dict[str, dict[str, Code]]:
        """The codes that go before the default, by what they hang on, in the order in which they are tried."""
        return tables(self, PRECEDENCE)

    def chosen(self, role: str, facts: Facts) -> Chosen:
        """The account for a line, by the fixed precedence."""
        for name, codes in self.overrides.items():
            met = getattr(facts, name)
            code = codes.get(met) if met else None
            if code:
                text = f"The account for {role} is {code} for {name.replace('_', ' ')} '{met}'."
                return Chosen(code, f"/accounts/{role}/by_{name}/{escaped(met)}", text)
        return Chosen(self.default, f"/accounts/{role}", f"The account for {role} is {self.default}.")

    def codes(self, role: str) -> Iterator[tuple[str, str]]:
        """Every code it names, with its JSON Pointer."""
        yield f"/accounts/{role}", self.default
        for name, codes in self.overrides.items():
            for met, code in codes.items():
                yield f"/accounts/{role}/by_{name}/{escaped(met)}", code


class AccountRules(Value):
    """Ledger accounts by role; a role that nobody named holds the orders that need it."""

    sales: AccountRule
    shipping: AccountRule
    rounding: AccountRule
    discounts: AccountRule | None = None
    goodwill: AccountRule | None = None
    tips: AccountRule | None = None
    donations: AccountRule | None = None
    duties: AccountRule | None = None
    surcharges: AccountRule | None = None
    gift_cards: AccountRule | None = None
    vouchers: AccountRule | None = None
    deposits: AccountRule | None = None
    tax: AccountRule | None = None

    def rule(self, role: str) -> AccountRule | None:
        """The rule of a role, where there is one."""
        found: AccountRule | None = getattr(self, role)
        return found
