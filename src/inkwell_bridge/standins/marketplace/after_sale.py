"""What becomes of a sale at the marketplace after it was made: see ``standins.after_sale``."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from decimal import ROUND_HALF_UP, Decimal

from inkwell_bridge.standins.after_sale import AfterSale, Back, CannotBeDone, Json, NoSuchSale, tax_of
from inkwell_bridge.standins.marketplace.stall import Stall

KIND = {"sale": "sale", "refund": "handback"}
# Every currency that sales are in there has cents.
CENTS = Decimal("0.01")
_WHOLE = Decimal(1)


class MarketAfterSale(AfterSale):
    """Items with several taxes each, amounts in whole minor units."""

    def __init__(self, stall: Stall, tell: Callable[[str, str, Json], None]) -> None:
        self.stall, self.tell = stall, tell

    def find(self, world: str, number: str) -> Json:
        """See ``AfterSale.find``."""
        found: list[Json] = self.stall.store.search(world, "sale", number)
        if not found:
            raise NoSuchSale(f"the marketplace has no sale {number}")
        return found[0]

    def keep(self, world: str, kind: str, entry: Json, at: str) -> None:
        """See ``AfterSale.keep``."""
        self.tell(world, KIND[kind], self.stall.moved(world, KIND[kind], entry, at))

    def rows(self, sale: Json) -> list[Json]:
        """See ``AfterSale.rows``."""
        if any(item.get("off") for item in sale["items"]):
            raise CannotBeDone("items with something off are not changed one by one")
        return list(sale["items"])

    def numbered(self, row: Json) -> int:
        """See ``AfterSale.numbered``."""
        return int(row["pos"])

    def pieces_of(self, row: Json) -> int:
        """See ``AfterSale.pieces_of``."""
        return int(row["how_many"])

    def another(self, row: Json, number: int, article: str, title: str) -> Json:
        """See ``AfterSale.another``."""
        return {**row, "pos": number, "code": article, "label": title}

    def worth(self, sale: Json, row: Json) -> Decimal:
        """See ``AfterSale.worth``."""
        return _due(sale, [row]) * CENTS

    def priced(self, sale: Json, row: Json, *, count: int, price: Decimal | None) -> Json:
        """See ``AfterSale.priced``."""
        each = row["each"] if price is None else _minor(price)
        amount = each * count
        inside = sale["prices"] == "gross"
        taxes = [
            {**tax, "minor": int(tax_of(Decimal(amount), Decimal(tax["millionths"]) / 10_000, inside=inside,
                                        step=_WHOLE))}
            for tax in row["taxes"]
        ]  # fmt: skip
        return {**row, "how_many": count, "each": each, "minor": amount, "taxes": taxes}

    def with_rows(self, sale: Json, rows: list[Json]) -> Json:
        """See ``AfterSale.with_rows``."""
        charges = [*rows, *([sale["postage"]] if sale.get("postage") else [])]
        return {**sale, "items": rows, "sums": {"tax": _tax(charges), "due": _due(sale, charges)}}

    def with_money(self, sale: Json, amount: Decimal, at: str) -> Json:
        """See ``AfterSale.with_money``."""
        sent = {"progress": "to send"} if sale["progress"] == "unpaid" else {}
        return {**sale, "paid": [*sale["paid"], _paid(_minor(amount), at)], **sent}

    def with_money_bounced(self, sale: Json) -> Json:
        """See ``AfterSale.with_money_bounced``."""
        stayed = [place for place, one in enumerate(sale["paid"]) if not one.get("reversed")]
        if not stayed:
            raise CannotBeDone("no money of this sale is there to bounce")
        paid = [{**one, "reversed": True} if place == stayed[-1] else one for place, one in enumerate(sale["paid"])]
        return {**sale, "paid": paid}

    def called_off(self, sale: Json) -> Json:
        """See ``AfterSale.called_off``."""
        return {**sale, "progress": "called off"}

    def refund(self, world: str, sale: Json, back: Back, at: str) -> Json:
        """See ``AfterSale.refund``."""
        key = self.stall.store.highest(world, "handback") + 1
        kindness = {"label": "Handed back", "minor": _minor(back.without_row), "tax_group": "", "taxes": []}
        goodwill = [kindness] if back.without_row else []
        charges = [*back.rows, *goodwill]
        return {
            "handback": f"LFH-{key}", "key": key, "sale": sale["sale"], "sale_key": sale["key"], "on": at,
            "moved": at, "money": sale["money"], "prices": sale["prices"], "why": "item" if back.rows else "goodwill",
            "items": [{**row, "came_back": True} for row in back.rows], "postage": None,
            "goodwill": goodwill, "paid": [_paid(_minor(back.paid), at)] if back.paid else [],
            "sums": {"tax": _tax(charges), "due": _due(sale, charges)},
        }  # fmt: skip


def _tax(charges: list[Json]) -> int:
    return sum(tax["minor"] for charge in charges for tax in charge["taxes"])


def _due(sale: Json, charges: list[Json]) -> int:
    on_top = _tax(charges) if sale["prices"] == "net" else 0
    return int(sum(charge["minor"] for charge in charges) + on_top)


def _minor(amount: Decimal) -> int:
    return int((amount / CENTS).quantize(_WHOLE, ROUND_HALF_UP))


def _paid(minor: int, at: str) -> Json:
    return {"ref": f"lfp-{uuid.uuid4().hex[:12]}", "minor": minor, "on": at}
