"""A sale at the marketplace that lives: a model of it by itself, and what the books should hold of it.

Prices are whole numbers of a fair's unit, in which no tax is a fraction of a cent. Amounts are cents.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from typing import Any

Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fair:
    """Where sales are made: what one unit says on its price, what its buyer pays, what reaches the seller and what of
    that is without tax; and how the books name it. A kindness stands under the code
    of what the marketplace keeps the tax of, where it does: there is no tax in it either way."""

    template: str
    taxes: tuple[tuple[str, int, int], ...]
    goes_to: str
    priced: int
    buyer: int
    seller: int
    net: int
    code: str
    kindness: str
    accounts: tuple[str, str, str]


UK, IRISH = ("4000", "4100", "4900"), ("400", "410", "490")
FAIRS = (
    # 8 % on top, in two taxes of states that the marketplace keeps.
    Fair(template="LF-26-4134", taxes=(("State tax", 40_000, 1), ("City tax", 40_000, 1)), goes_to="fair", priced=25,
         buyer=27, seller=25, net=25, code="M00", kindness="M00", accounts=UK),
    # A price in Norway holds 25 % that the marketplace keeps.
    Fair(template="LF-26-4104", taxes=(("MVA", 250_000, 1),), goes_to="fair", priced=5, buyer=5, seller=4, net=4,
         code="VM", kindness="VM", accounts=IRISH),
    # One in Ireland holds 23 % that the seller owes.
    Fair(template="LF-26-4101", taxes=(("VAT", 230_000, 23),), goes_to="seller", priced=123, buyer=123, seller=123,
         net=100, code="V23", kindness="NONE", accounts=IRISH),
)  # fmt: skip


@dataclass
class MarketLiving:
    """One sale: rows of pieces and price in units, postage in units, and cents that were paid and handed back."""

    number: int
    fair: Fair
    rows: dict[int, tuple[int, int]]
    postage: int = 0
    called_off: bool = False
    carried: bool = False
    paid: list[int] = field(default_factory=list)
    repaid: int = 0
    gone: Counter[int] = field(default_factory=Counter)
    given: int = 0

    @property
    def reference(self) -> str:
        """Its number at the marketplace."""
        return f"LF-L-{self.number}"

    @property
    def units(self) -> int:
        """What the marketplace prints, without tax that comes on top."""
        return sum(count * price for count, price in self.rows.values()) + self.postage

    @property
    def stays_sold(self) -> int:
        """What of it did not come back; a new price is one for these."""
        return sum(self.stays(row) * price for row, (_, price) in self.rows.items()) + self.postage

    @property
    def owed(self) -> int:
        """What was paid beyond what stays sold, and was not handed back."""
        return self.left - (0 if self.called_off else self.stays_sold * self.fair.buyer - self.given)

    @property
    def left(self) -> int:
        """What of the buyer's money did not go back."""
        return sum(self.paid) - self.repaid

    def stays(self, row: int) -> int:
        """The pieces of a row that did not come back."""
        return max(self.rows[row][0] - self.gone[row], 0)

    def told(self, template: Json, at: str) -> Json:
        """The sale in the marketplace's words, at its beginning."""
        (item,) = template["items"]
        items = [{**item, "pos": row, "how_many": count, "each": price * self.fair.priced,
                  **self._charged(item, count * price)} for row, (count, price) in self.rows.items()]  # fmt: skip
        tax = sum(tax for _, _, tax in self.fair.taxes) * self.units
        return {
            **template, "sale": self.reference, "key": 95_000 + self.number, "moved": at, "items": items,
            "postage": {**template["postage"], **self._charged(item, self.postage)} if self.postage else None,
            "paid": [{"ref": f"lfp-{self.reference}", "minor": paid, "on": at} for paid in self.paid],
            "sums": {"tax": tax, "due": self.units * self.fair.buyer},
        }  # fmt: skip

    def _charged(self, item: Json, units: int) -> Json:
        taxes = [{**item["taxes"][0], "name": name, "millionths": rate, "goes_to": self.fair.goes_to,
                  "minor": tax * units} for name, rate, tax in self.fair.taxes]  # fmt: skip
        return {"minor": units * self.fair.priced, "taxes": taxes}

    def books(self) -> dict[tuple[str, str], int]:
        """What the books should hold of it without tax, by account and code, what came back taken off."""
        if self.called_off or not self.carried:
            return {}
        sales, carriage, kindness = self.fair.accounts
        found = {
            (sales, self.fair.code): (self.stays_sold - self.postage) * self.fair.net,
            (carriage, self.fair.code): self.postage * self.fair.net,
            (kindness, self.fair.kindness): -self.given,
        }
        return {place: amount for place, amount in found.items() if amount}

    @property
    def sold(self) -> int:
        """What stays sold, tax of the seller in it: so much of money reached the seller once nothing is owed."""
        if self.called_off or not self.carried:
            return 0
        return self.stays_sold * self.fair.seller - self.given
