"""Ledger accounts by role: a default for each, and what goes before it, in a fixed order."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import AccountType
from inkwell_bridge.core.rulebook.levels import Chosen, Defaulted, Facts, rule_of
from inkwell_bridge.core.values import Value

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
    "exchange_differences": frozenset({_EXPENSE, _INCOME}),
    "write_offs": frozenset({_EXPENSE, _INCOME}),
}
# Roles that never stand on a document of a sale: what money gained or lost, and what was given up of it.
OF_MONEY = frozenset({"exchange_differences", "write_offs"})
# Roles whose accounts only sales stand on; rounding and exchange differences are everybody's.
OF_SALES = ("sales", "shipping", "discounts", "goodwill", "surcharges")
MONEY_TYPES = frozenset({AccountType.BANK, AccountType.ASSET})


class AccountRule(Defaulted):
    """The account of one role."""

    def chosen(self, role: str, facts: Facts) -> Chosen:
        """The account for a line, by the fixed precedence."""
        level = self.exception(facts)
        if level is None:
            return Chosen(self.default, f"/accounts/{role}", f"The account for {role} is {self.default}.")
        text = f"The account for {role} is {level.gave} for {level.said}."
        return Chosen(level.gave, rule_of(f"/accounts/{role}", level.name, level.fits), text)

    def codes(self, role: str) -> Iterator[tuple[str, str]]:
        """Every code it names, with its JSON Pointer."""
        yield f"/accounts/{role}", self.default
        yield from self.exceptions(f"/accounts/{role}")


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
    exchange_differences: AccountRule | None = None
    write_offs: AccountRule | None = None

    @property
    def of_sales(self) -> frozenset[str]:
        """Every account that what is sold, or given back of it, stands on: those of the roles that nothing else has."""
        rules = ((role, self.rule(role)) for role in OF_SALES)
        return frozenset(code for role, rule in rules if rule is not None for _, code in rule.codes(role))

    def rule(self, role: str) -> AccountRule | None:
        """The rule of a role, where there is one."""
        found: AccountRule | None = getattr(self, role)
        return found
