"""An order that lives: a model of it by itself, told in the shop's words, and what the books should hold of it.

All prices hold tax at 20 % and are multiples of 1.20, so that no penny is ever in question, not even of a quarter.
Amounts are pence.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from typing import Any

from tests.support.changing import FIRST
from tests.support.world import shop_order

PRICES = (120, 240, 600, 1200)
MOST_PIECES = 5
Json = dict[str, Any]


@dataclass
class Living:
    """One order: its rows (pieces and price), carriage, money and refunds; ``gone`` are pieces that went back by row,
    ``given`` kindnesses. ``sales`` is the account that its goods were posted on first; none before that. One in another
    ``currency`` is in the books at the ``rate`` that it was posted at first: so many parts make one."""

    number: int
    rows: dict[int, tuple[int, int]]
    sales: str = ""
    currency: str = "GBP"
    rate: int = 1
    carriage: int = 0
    cancelled: bool = False
    received: list[Json] = field(default_factory=list)
    refunds: list[Json] = field(default_factory=list)
    gone: Counter[int] = field(default_factory=Counter)
    given: int = 0
    credited: int = 0
    next_row: int = 10

    @property
    def reference(self) -> str:
        """Its number at the shop."""
        return f"LV-{self.number}"

    @property
    def total(self) -> int:
        """What the shop prints."""
        return sum(count * price for count, price in self.rows.values()) + self.carriage

    @property
    def paid(self) -> int:
        """What came in and stayed."""
        return sum(one["pence"] for one in self.received if one["state"] == "received")

    @property
    def repaid(self) -> int:
        """What went back."""
        return sum(one["pence"] for one in self.refunds)

    @property
    def owed(self) -> int:
        """What was paid beyond what the order comes to by now, and was not paid back."""
        return self.paid - self.repaid - (0 if self.cancelled else self.total - self.credited)

    def stays(self, row: int) -> int:
        """The pieces of a row that did not come back."""
        return max(self.rows[row][0] - self.gone[row], 0)

    def shop(self, moment: str) -> Json:
        """The order in the shop's words, changed at that moment."""
        template = shop_order(FIRST)
        (row,) = template["basket"]
        basket = [
            {**row, "row": number, "count": count, "price": _money(price), "sum": _money(count * price),
             "tax": {**row["tax"], "sum": _money(count * price // 6)}}
            for number, (count, price) in self.rows.items()
        ]  # fmt: skip
        carriage = template["carriage"]
        parcel = {**carriage, "sum": _money(self.carriage),
                  "tax": {**carriage["tax"], "sum": _money(self.carriage // 6)}} if self.carriage else None  # fmt: skip
        money = {**template["received"][0]}
        return {
            **template, "currency": self.currency, "id": 80_000 + self.number, "reference": self.reference,
            "last_change": moment,
            "state": "cancelled" if self.cancelled else "paid", "basket": basket, "carriage": parcel,
            "total": _money(self.total), "tax": _money(self.total // 6),
            "received": [{**money, "transaction": one["transaction"], "sum": _money(one["pence"]),
                          "state": "in" if one["state"] == "received" else "failed"} for one in self.received],
        }  # fmt: skip

    def refund(self, number: int, moment: str, pence: int, *, row: int = 0, count: int = 0) -> Json:
        """A refund in the shop's words: of pieces of a row, or of an amount without a line."""
        base: Json = {
            "id": number, "reference": f"LV-R-{number}", "order": self.reference, "order_id": 80_000 + self.number,
            "when": moment, "last_change": moment, "currency": self.currency, "prices": "with tax",
            "total": _money(pence),
            "paid_back": [{"transaction": f"lv_r_{number}", "by": "card", "with": "card", "sum": _money(pence),
                           "when": moment}],
        }  # fmt: skip
        self.refunds.append({"pence": pence})
        if row:
            tax = {"class": "standard", "percent": "20", "sum": _money(pence // 6)}
            piece = {"row": row, "article": "YRN-SOCK-FEN", "title": "Skein", "count": count, "sum": _money(pence),
                     "tax": tax}  # fmt: skip
            return {**base, "tax": _money(pence // 6), "rows": [piece]}
        outside = {"class": "outside", "percent": "0", "sum": "0.00"}
        return {**base, "tax": "0.00",
                "goodwill": [{"row": "goodwill", "title": "Back", "sum": _money(pence), "tax": outside}]}  # fmt: skip

    def books(self, ledger: bool = False) -> dict[tuple[str, str], int]:
        """What the books should hold of it without tax, by account and code, refunds taken off: the ERP, or the ledger
        by its own codes."""
        if self.cancelled or not self.sales:
            return {}
        goods = sum(self.stays(row) * price for row, (_, price) in self.rows.items())
        sales, carriage, given, code, outside = (
            ("400", "410", "490", "FR20", "NONE") if ledger else (self.sales, "4100", "4900", "S20", "OUT")
        )
        found = Counter({(sales, code): goods * 5 // 6})
        found[carriage, code] += self.carriage * 5 // 6
        found[given, outside] -= self.given
        return {place: amount // self.rate for place, amount in found.items() if amount}

    @property
    def money_in_books(self) -> int:
        """What the books should hold of its money: what was gained or lost with it apart."""
        return (self.paid - self.repaid) // self.rate if self.sales else 0


def _money(pence: int) -> str:
    return f"{pence // 100}.{pence % 100:02}"
