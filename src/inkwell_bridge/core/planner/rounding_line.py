"""The line that a difference of rounding stands on, outside tax: else the books would tax the penny in turn."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.books import DocumentLine, LineKind
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.levels import Chosen

ZERO = Decimal(0)


def rounding_place(lines: Sequence[DocumentLine], rules: OrderRulebook) -> Chosen:
    """The account of a difference: that of the rounding, or of the largest line of goods where the rules say so."""
    goods = [line for line in lines if line.kind is LineKind.GOODS]
    if rules.penny.goes_to == "largest line" and goods:
        largest = max(goods, key=lambda line: abs(line.net))
        return Chosen(largest.account, "/penny/goes_to", f"the account {largest.account} of the largest line")
    code = rules.accounts.rounding.default
    return Chosen(code, "/penny/goes_to", f"the rounding account {code}")


def rounding_line(
    amount: Decimal, account: str, rules: OrderRulebook, *, line_reference: str, text: str, order_number: str, link: str
) -> DocumentLine:
    """A line of so much, outside tax."""
    return DocumentLine(
        kind=LineKind.ROUNDING,
        line_reference=line_reference,
        text=text,
        account=account,
        quantity=Decimal(1),
        unit_price=amount,
        net=amount,
        tax_code=rules.tax_codes.outside,
        tax=ZERO,
        order_number=order_number,
        link=link,
    )
