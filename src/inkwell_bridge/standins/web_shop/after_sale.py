"""The web shop's merchant, after a sale: see ``standins.after_sale``."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from decimal import ROUND_HALF_UP, Decimal

from inkwell_bridge.standins.after_sale import ZERO, AfterSale, Back, CannotBeDone, Json, NoSuchSale, tax_of
from inkwell_bridge.standins.web_shop.shelves import Shelves

KIND = {"sale": "order", "refund": "refund"}
# Of what a row is, a refund keeps this.
_RETURNED = ("row", "article", "title", "count", "sum", "tax")


class ShopAfterSale(AfterSale):
    """Rows with one tax each, amounts as text."""

    def __init__(self, shelves: Shelves, tell: Callable[[str, str, Json], None]) -> None:
        self.shelves, self.tell = shelves, tell

    def find(self, world: str, number: str) -> Json:
        """See ``AfterSale.find``."""
        order = self.shelves.by_reference(world, "order", number)
        if order is None:
            raise NoSuchSale(f"the shop has no order {number}")
        return order

    def keep(self, world: str, kind: str, entry: Json, at: str) -> None:
        """See ``AfterSale.keep``."""
        self.shelves.touched(world, KIND[kind], entry, at)
        self.tell(world, KIND[kind], entry)

    def rows(self, sale: Json) -> list[Json]:
        """See ``AfterSale.rows``. Reductions are spread over rows here: what they would be now, only the shop's own
        checkout knows."""
        if sale["vouchers"] or any(Decimal(row["reduction"]) for row in sale["basket"]):
            raise CannotBeDone("rows under a voucher or a reduction are not changed one by one")
        return list(sale["basket"])

    def numbered(self, row: Json) -> int:
        """See ``AfterSale.numbered``."""
        return int(row["row"])

    def pieces_of(self, row: Json) -> int:
        """See ``AfterSale.pieces_of``."""
        return int(row["count"])

    def another(self, row: Json, number: int, article: str, title: str) -> Json:
        """See ``AfterSale.another``."""
        return {**row, "row": number, "article": article, "title": title}

    def worth(self, sale: Json, row: Json) -> Decimal:
        """See ``AfterSale.worth``."""
        return Decimal(row["sum"]) + (ZERO if _inside(sale) else Decimal(row["tax"]["sum"]))

    def priced(self, sale: Json, row: Json, *, count: int, price: Decimal | None) -> Json:
        """See ``AfterSale.priced``."""
        step = _step(sale)
        each = Decimal(row["price"]) if price is None else price.quantize(step, ROUND_HALF_UP)
        tax = tax_of(each * count, Decimal(row["tax"]["percent"]), inside=_inside(sale), step=step)
        return {**row, "count": count, "price": str(each), "sum": str(each * count),
                "tax": {**row["tax"], "sum": str(tax)}}  # fmt: skip

    def with_rows(self, sale: Json, rows: list[Json]) -> Json:
        """See ``AfterSale.with_rows``."""
        tax, total = _sums(sale, [*rows, *([sale["carriage"]] if sale["carriage"] else [])])
        return {**sale, "basket": rows, "tax": str(tax), "total": str(total)}

    def with_money(self, sale: Json, amount: Decimal, at: str) -> Json:
        """See ``AfterSale.with_money``."""
        received = [*sale["received"], {**_money(sale, amount, at), "by": "card", "with": "card"}]
        paid = {"state": "paid"} if sale["state"] == "awaiting payment" else {}
        return {**sale, "received": received, **paid}

    def with_money_bounced(self, sale: Json) -> Json:
        """See ``AfterSale.with_money_bounced``."""
        stayed = [place for place, one in enumerate(sale["received"]) if one.get("state", "in") == "in"]
        if not stayed:
            raise CannotBeDone("no money of this order is there to bounce")
        received = [{**one, "state": "failed"} if place == stayed[-1] else one
                    for place, one in enumerate(sale["received"])]  # fmt: skip
        return {**sale, "received": received}

    def called_off(self, sale: Json) -> Json:
        """See ``AfterSale.called_off``."""
        return {**sale, "state": "cancelled"}

    def refund(self, world: str, sale: Json, back: Back, at: str) -> Json:
        """See ``AfterSale.refund``."""
        number = self.shelves.store.highest(world, "refund") + 1
        rows = [{name: row[name] for name in _RETURNED} for row in back.rows]
        tax, total = _sums(sale, rows)
        outside = {"class": "outside", "percent": "0", "sum": str(ZERO.quantize(_step(sale)))}
        goodwill = {"row": "goodwill", "title": "Paid back", "sum": str(back.without_row), "tax": outside}
        return {
            "id": number, "reference": f"{sale['reference']}-R{number}", "order": sale["reference"],
            "order_id": sale["id"], "when": at, "last_change": at, "currency": sale["currency"],
            "prices": sale["prices"], "rows": rows, "goodwill": [goodwill] if back.without_row else [],
            "tax": str(tax), "total": str(total + back.without_row),
            "paid_back": [{**_money(sale, back.paid, at), "by": "card", "with": "card"}] if back.paid else [],
        }  # fmt: skip


def _inside(sale: Json) -> bool:
    return bool(sale["prices"] == "with tax")


def _step(sale: Json) -> Decimal:
    """The smallest coin that the order's own amounts are written in."""
    return Decimal(1).scaleb(int(Decimal(sale["total"]).as_tuple().exponent))


def _sums(sale: Json, parts: list[Json]) -> tuple[Decimal, Decimal]:
    start = ZERO.quantize(_step(sale))
    tax = sum((Decimal(part["tax"]["sum"]) for part in parts), start)
    return tax, sum((Decimal(part["sum"]) for part in parts), start) + (0 if _inside(sale) else tax)


def _money(sale: Json, amount: Decimal, at: str) -> Json:
    return {"transaction": f"wg_{uuid.uuid4().hex[:12]}", "sum": str(amount.quantize(_step(sale))),
            "when": at}  # fmt: skip
