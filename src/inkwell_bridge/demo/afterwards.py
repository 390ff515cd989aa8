"""What the web shop's customers did after October was carried: each kind of change twice, on its last evening.

``afterwards.yaml`` says what must come of each, worked out by hand.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from inkwell_bridge.demo.month import web_shop
from inkwell_bridge.demo.october import moment
from inkwell_bridge.demo.pence import written

Json = dict[str, Any]
# What a row comes to, in the shop's words: pieces, sum, and the tax inside it.
Row = tuple[int, str, str]


def afterwards() -> Json:
    """The orders as they are by then, and what was paid back, as the shop hands them out."""
    orders = {order["reference"]: order for order in web_shop()["orders"]}
    changed = [
        _pieces(orders["MW-10117"], 1, (3, "55.50", "9.25"), paid="18.50"),
        _pieces(orders["MW-10129"], 1, (4, "74.00", "12.33")),
        _without_row(orders["MW-10140"], 2),
        _without_row(orders["MW-10108"], 2),
        _pieces(orders["MW-10138"], 1, (1, "28.00", "4.67")),
        _pieces(orders["MW-10150"], 1, (2, "120.00", "20.00")),
        _cancelled(orders["MW-10114"]),
        _cancelled(orders["MW-10116"]),
        _with_voucher(orders["MW-10119"], "5.00", ("3.38", "4.84")),
        _with_voucher(orders["MW-10118"], "8.40", ("4.28", "8.33")),
        _bounced(orders["MW-10104"]),
        _bounced(orders["MW-10110"]),
        _with_row(orders["MW-10160"], "YRN-MER4-HEA", "Merino yarn, 4 ply, Heather", (1, "18.50", "3.08")),
        _with_row(orders["MW-10163"], "DYE-POW-MAD", "Dye powder, Madder", (1, "7.45", "1.24")),
    ]
    refunds = [
        _money_back(901, orders["MW-10138"], "4.00"),
        _money_back(902, orders["MW-10150"], "8.00"),
        _money_back(903, orders["MW-10114"], "18.50"),
        _money_back(904, orders["MW-10116"], "10.44"),
        _exchanged(905, orders["MW-10160"], 2, paid=""),
        _exchanged(906, orders["MW-10163"], 2, paid="11.05"),
    ]
    return {
        "orders": [{**order, "last_change": _at(place).isoformat()} for place, order in enumerate(changed)],
        "refunds": refunds,
    }


def _at(minute: int) -> datetime:
    # Later than any other change of the month, so that a shop lists them to who asks what is new.
    return moment(31, 23, 45) + timedelta(seconds=30 * minute)


def _pieces(order: Json, number: int, row: Row, *, paid: str = "") -> Json:
    """So many pieces of one row, at what they come to; ``paid`` came in for them."""
    count, amount, tax = row
    basket = [
        {**one, "count": count, "sum": amount, "price": written(_pence(amount) // count),
         "tax": {**one["tax"], "sum": tax}}
        if one["row"] == number else one
        for one in order["basket"]
    ]  # fmt: skip
    more = [{**order["received"][0], "transaction": f"{order['received'][0]['transaction']}b", "sum": paid,
             "when": _at(0).isoformat()}] if paid else []  # fmt: skip
    return _summed({**order, "basket": basket, "received": [*order["received"], *more]})


def _without_row(order: Json, number: int) -> Json:
    return _summed({**order, "basket": [one for one in order["basket"] if one["row"] != number]})


def _with_row(order: Json, article: str, title: str, row: Row) -> Json:
    """An article more; in place of one that came back it is an exchange."""
    count, amount, tax = row
    (first, *_) = order["basket"]
    added = {**first, "row": len(order["basket"]) + 1, "article": article, "title": title, "count": count,
             "price": written(_pence(amount) // count), "sum": amount,
             "tax": {"class": "standard", "percent": "20", "sum": tax}}  # fmt: skip
    return _summed({**order, "basket": [*order["basket"], added]})


def _with_voucher(order: Json, amount: str, taxes: tuple[str, ...]) -> Json:
    """So much off all goods, whose taxes are these by then."""
    rows = zip(order["basket"], taxes, strict=True)
    basket = [{**one, "tax": {**one["tax"], "sum": tax}} for one, tax in rows]
    voucher = {"code": "SORRY", "title": "For the wait", "sum": amount}
    return _summed({**order, "basket": basket, "vouchers": [voucher]})


def _cancelled(order: Json) -> Json:
    return {**order, "state": "cancelled"}


def _bounced(order: Json) -> Json:
    """The bank took the money back."""
    return {**order, "received": [{**one, "state": "failed"} for one in order["received"]]}


def _summed(order: Json) -> Json:
    parts = [*order["basket"], *([order["carriage"]] if order["carriage"] else [])]
    off = sum(_pence(one["sum"]) for one in order["vouchers"])
    total = sum(_pence(one["sum"]) for one in parts) - off
    return {**order, "total": written(total), "tax": written(sum(_pence(one["tax"]["sum"]) for one in parts))}


def _refund(number: int, order: Json, total: str, paid: str) -> Json:
    when = _at(20).isoformat()
    money = {"transaction": f"wg_r_{number}", "by": "card", "with": "card", "sum": paid, "when": when}
    return {
        "id": number, "reference": f"MW-R-{number}", "order": order["reference"], "order_id": order["id"],
        "when": when, "last_change": when, "currency": "GBP", "prices": "with tax", "tax": "0.00", "total": total,
        "paid_back": [money] if paid else [],
    }  # fmt: skip


def _money_back(number: int, order: Json, amount: str) -> Json:
    """Money without a line, as the shop pays back what an edit or a cancellation left."""
    outside = {"class": "outside", "percent": "0", "sum": "0.00"}
    back = {"row": "goodwill", "title": "Paid back", "sum": amount, "tax": outside}
    return _refund(number, order, amount, amount) | {"goodwill": [back]}


def _exchanged(number: int, order: Json, row: int, *, paid: str) -> Json:
    """One piece of a row comes back; what was taken in its place is on the order by now, and the rest is paid back."""
    one = next(part for part in order["basket"] if part["row"] == row)
    back = {name: one[name] for name in ("row", "article", "title", "tax")}
    back |= {"count": 1, "sum": one["price"], "tax": {**one["tax"], "sum": "3.08"}}
    return _refund(number, order, one["price"], paid) | {"rows": [back], "tax": "3.08"}


def _pence(text: str) -> int:
    return int(text.replace(".", ""))
