"""The books' reference data, as loaded at one moment."""

from __future__ import annotations

import datetime
from decimal import Decimal
from enum import StrEnum
from functools import cached_property

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


class TaxPart(Value):
    """One of several taxes of a code; ``on_others`` is taken of the price with the taxes before it."""

    name: Text = ""
    rate_percent: Exact
    on_others: bool = False


class TaxCode(Value):
    """A tax code; ``outside`` tells a code that is outside the tax altogether from one at zero.

    Shape: a code of several taxes (federal and provincial, say) has them as ``parts``, in the order in which they are
    taken; what they come to together is its rate, whatever ``rate_percent`` says.
    """

    code: Code
    name: Text
    rate_percent: Exact
    outside: bool = False
    parts: tuple[TaxPart, ...] = ()

    @property
    def whole_rate(self) -> Decimal:
        """The rate of all its taxes together, in percent of a price without tax.

        Example: 5 % and, on both, 10 % are 15.5 %.
        """
        if not self.parts:
            return self.rate_percent
        whole = Decimal(0)
        for part in self.parts:
            # What is taken on the others is taken of the price with all taxes so far.
            whole += part.rate_percent * (100 + whole) / 100 if part.on_others else part.rate_percent
        return whole


class Named(Value):
    """Something that the books know by a code: an item, a warehouse, a payment term."""

    code: Code
    name: Text = ""


class NamedItem(Named):
    """An item of the books, with what else it is found by."""

    barcode: Text = ""


class DimensionValues(Value):
    """A reporting dimension, with the values it can take."""

    name: Code
    values: tuple[Named, ...] = ()


class Period(Value):
    """An accounting period, from its first to its last day."""

    name: Text
    first: datetime.date
    last: datetime.date
    open: bool


class MasterData(Value):
    """Everything a rulebook may name in the books of one company; nothing is dated up to ``locked_until``.

    Shape: ``units`` are the company's organisational units, ``languages`` (BCP 47) those that documents are printed
    in. ``contacts`` and ``items`` are those of the books' long lists that a rulebook names; absent where nobody looked.
    """

    company: Text
    currency: Code
    accounts: tuple[Account, ...]
    tax_codes: tuple[TaxCode, ...]
    contacts: tuple[Code, ...] | None = None
    items: tuple[NamedItem, ...] | None = None
    warehouses: tuple[Named, ...] = ()
    terms: tuple[Named, ...] = ()
    price_lists: tuple[Named, ...] = ()
    units: tuple[Named, ...] = ()
    delivery_methods: tuple[Named, ...] = ()
    sales_people: tuple[Named, ...] = ()
    languages: tuple[Named, ...] = ()
    dimensions: tuple[DimensionValues, ...] = ()
    currencies: tuple[Code, ...] = ()
    periods: tuple[Period, ...] = ()
    locked_until: datetime.date | None = None

    def account(self, code: str) -> Account | None:
        """The account with that code, if the books have it."""
        return next((account for account in self.accounts if account.code == code), None)

    def tax_code(self, code: str) -> TaxCode | None:
        """The tax code with that name, if the books have it."""
        return next((tax for tax in self.tax_codes if tax.code == code), None)

    def rate(self, code: str) -> Decimal:
        """The rate of a tax code in percent; a code that the books do not have taxes nothing."""
        return self._rates.get(code, Decimal(0))

    @cached_property
    def _rates(self) -> dict[str, Decimal]:
        # The first of two with one code counts, as it does where a code is looked up.
        return {tax.code: tax.whole_rate for tax in reversed(self.tax_codes)}
