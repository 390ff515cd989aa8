"""What speaks for a code where no rule names one: its type, its rate, the words that the trade calls it by."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import Account, AccountType, TaxCode
from inkwell_bridge.core.commerce import TaxClass
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, MONEY_TYPES

_WORD = re.compile(r"[^\W\d_]+")
# The words that accounts of a role are called by, in the trade; the likeliest first.
CALLED = {
    "sales": ("sales", "turnover", "revenue"),
    "shipping": ("carriage", "shipping", "delivery", "postage", "freight"),
    "discounts": ("discount", "discounts"),
    "goodwill": ("goodwill", "allowances", "allowance"),
    "tips": ("tips", "gratuities"),
    "donations": ("donations", "charity", "fund"),
    "duties": ("duties", "duty", "customs"),
    "surcharges": ("surcharges", "surcharge"),
    "gift_cards": ("gift",),
    "vouchers": ("vouchers", "voucher"),
    "deposits": ("deposits", "deposit", "prepayments"),
    "rounding": ("rounding",),
}
# Codes of purchases, and of sales that are taxed by somebody else, are never taken for an ordinary sale.
_OTHER_SUPPLY = ("purchase", "purchases", "input", "reverse", "acquisition", "marketplace", "import")
_CLEARING = ("clearing", "gateway", "card", "undeposited")


def account_of_role(role: str, accounts: Sequence[Account]) -> Account | None:
    """The account that is called like a role, of those whose type the role may use."""
    return _called([one for one in accounts if one.type in ALLOWED_TYPES[role]], CALLED.get(role, ()))


def bank_of(accounts: Sequence[Account]) -> Account | None:
    """The first bank account."""
    return next((one for one in accounts if one.type is AccountType.BANK), None)


def account_of_method(method: str, accounts: Sequence[Account]) -> Account | None:
    """The account that the money of a method of payment comes in on."""
    kept, bank = [one for one in accounts if one.type in MONEY_TYPES], bank_of(accounts)
    words = set(_words(method))
    if "gift" in words:
        # What was a debt when the card was sold is paid back with it.
        return _called([one for one in accounts if one.type is AccountType.LIABILITY], CALLED["gift_cards"])
    if words & {"bank", "transfer", "cash"}:
        return bank
    own = next((one for one in kept if words & set(_words(one.name)) - {"account", "bank"}), None)
    return own or _called(kept, _CLEARING) or bank


def is_ordinary(code: TaxCode) -> bool:
    """Whether a code is for ordinary sales, by its name."""
    return not set(_words(code.name)) & set(_OTHER_SUPPLY)


def _called(accounts: Sequence[Account], words: Sequence[str]) -> Account | None:
    """The account that the first of ``words`` stands in the name of; of several the one with the lowest code."""
    for word in words:
        found = [one for one in accounts if word in _words(one.name)]
        if found:
            return min(found, key=lambda one: one.code)
    return None


def code_of_class(tax_class: TaxClass, codes: Iterable[TaxCode]) -> TaxCode | None:
    """The code of the same rate whose name is likest that of the class; none for a class of several taxes."""
    rates = {rate.rate_percent for rate in tax_class.rates} or {Decimal(0)}
    if len(rates) > 1:
        return None
    same = [code for code in codes if code.whole_rate in rates and not code.outside and is_ordinary(code)]
    wanted = set(_words(tax_class.name))
    return max(same, key=lambda code: len(wanted & set(_words(code.name))), default=None)


def _words(text: str) -> list[str]:
    return _WORD.findall(text.casefold())
