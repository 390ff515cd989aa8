"""How a sale was taxed, held against what is known of its buyer. The shop's treatment is a fact; it is only questioned.

Source: directive 2006/112/EC, articles 138 (supplies to a business in another member state), 146 (export) and 196
(reverse charge). Check digits prove the form of a tax number, never that it is registered.
"""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from functools import lru_cache

from stdnum.eu import vat as eu_vat
from stdnum.exceptions import ValidationError
from stdnum.gb import vat as gb_vat

from inkwell_bridge.core.commerce import Order, Treatment
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.rulebook import OrderRulebook

ZERO = Decimal(0)
UNTAXED = frozenset({Treatment.EXPORT, Treatment.REVERSE_CHARGE, Treatment.OUTSIDE})


def check_treatment(order: Order, rulebook: OrderRulebook, company_country: str) -> Iterator[Finding]:
    """What does not go together: a warning each, for the books follow the shop."""
    if order.treatment in UNTAXED:
        yield from _taxed_all_the_same(order)
    if order.treatment is Treatment.EXPORT and order.country and order.country == company_country:
        text = f"Order {order.number} is taxed as an export, yet goes to {order.country}."
        yield _warning("TAX-W004", "/country", text, "Ask the shop which of both is right.")
    if rulebook.tax_codes.tax_numbers == "check":
        yield from _tax_number(order)


def _taxed_all_the_same(order: Order) -> Iterator[Finding]:
    own = sum((tax.amount for charge in order.charges for tax in charge.taxes if not tax.kept), ZERO)
    if own:
        told = f"yet the shop charged {own} {order.currency} of tax."
        text = f"Order {order.number} is taxed as {order.treatment}, {told}"
        yield _warning("TAX-W004", "/treatment", text, "Ask the shop which of both is right.")


def _tax_number(order: Order) -> Iterator[Finding]:
    number = order.buyer.tax_number if order.buyer else ""
    if order.treatment is Treatment.REVERSE_CHARGE and not number:
        text = f"Order {order.number} is taxed as reverse charge, and its buyer gave no tax number."
        yield _warning(
            "TAX-W005", "/buyer/tax_number", text, "Ask the buyer for it; without one the seller owes the tax."
        )
    if number and not has_known_form(number):
        text = f"The tax number of order {order.number} has not the form of one."
        yield _warning("TAX-W006", "/buyer/tax_number", text, "Compare it with the buyer's papers; it may be mistyped.")


@lru_cache(maxsize=4096)
def has_known_form(number: str) -> bool:
    """Whether a tax number has the form of one of the EU or the United Kingdom; others are not judged."""
    plain = number.replace(" ", "").upper()
    if plain[:2] in {"GB", "XI"}:
        return bool(gb_vat.is_valid(plain[2:]))
    try:
        eu_vat.validate(plain)
    except ValidationError:
        return plain[:2].lower() not in _MEMBERS
    return True


_MEMBERS = frozenset(eu_vat.MEMBER_STATES) | {"el"}


def _warning(code: str, at: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.WARNING, text=text, hint=hint, at=at)
