"""What the books call things: accounts and tax codes, as loaded at one moment."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.values import Code, Exact, Text, Value


class AccountType(StrEnum):
    """The five classes of a ledger, and bank accounts apart from other assets."""

    ASSET = "asset"
    BANK = "bank"
    LIABILITY = "liability"
    EQUITY = "equity"
    INCOME = "income"
    EXPENSE = "expense"


class Account(Value):
    """A ledger account."""

    code: Code
    name: Text
    type: AccountType


class TaxCode(Value):
    """A tax code; ``outside`` tells a code that is outside the tax altogether from one at zero."""

    code: Code
    name: Text
    rate_percent: Exact
    outside: bool = False


class Reference(Value):
    """Everything a rulebook may name in the books of one company."""

    company: Text
    currency: Code
    accounts: tuple[Account, ...]
    tax_codes: tuple[TaxCode, ...]
    contacts: tuple[Code, ...] = ()

    def account(self, code: str) -> Account | None:
        """The account with that code, if the books have it."""
        return next((account for account in self.accounts if account.code == code), None)

    def tax_code(self, code: str) -> TaxCode | None:
        """The tax code with that name, if the books have it."""
        return next((tax for tax in self.tax_codes if tax.code == code), None)

    def rate(self, code: str) -> Decimal:
        """The rate of a tax code in percent; a code that the books do not have taxes nothing."""
        found = self.tax_code(code)
        return found.rate_percent if found else Decimal(0)
