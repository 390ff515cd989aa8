"""The rest of October's odd orders at the web shop; month.yaml says what must become of each."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.demo.october import build, moment, overseas, shopper
from inkwell_bridge.demo.pence import written

HEATHER, SOCK, SLATE, NEEDLES = "YRN-MER4-HEA", "YRN-SOCK-FEN", "YRN-MER4-SLA", "NDL-BAM-40"
FIRST_PLACE, SECOND_PLACE = 60, 168
UNTAXED = {"class": "outside", "percent": "0", "sum": "0.00"}
SHARED_EMAIL = {"first": "Ottilie", "last": "Marsh", "email": "ottilie@twomarsh.example", "town": "Ripon",
                "postcode": "HG4 1AA", "country": "GB"}  # fmt: skip
TRADE_BUYER = {"first": "Jonas", "last": "Weber", "email": "einkauf@wollgarten.example", "town": "Bremen",
               "postcode": "28195", "country": "DE"}  # fmt: skip
NAMELESS = {"first": "", "last": "", "email": "", "town": "Skipton", "postcode": "BD23 1AA", "country": "GB",
            "guest": True}  # fmt: skip
NEWCOMER = {"first": "Hester", "last": "Quill", "email": "hester.quill@distaff.example", "town": "Malton",
            "postcode": "YO17 7AB", "country": "GB"}  # fmt: skip
Json = dict[str, Any]


def odd_orders() -> list[Json]:
    """Each of these twice, from place 60 on."""
    makers = (
        *(_paid_by_gift_card(whole) for whole in (True, True, False, False)),
        *(_gift_card_sold, _gift_card_sold),
        *(_plain("an e-mail that two contacts share", SHARED_EMAIL),) * 2,
        *(_business_abroad, _business_abroad),
        *(_three_taxes, _three_taxes),
        *(_foreign("JPY", 1), _foreign("JPY", 1), _foreign("KWD", 1000), _foreign("KWD", 1000)),
        *(_settled_otherwise, _settled_otherwise),
        *(_extra("tip", "Tip for the dyers"), _extra("donation", "Mending fund")),
        *(_extra("duty", "Duty paid in advance"), _extra("tip", "Tip for the dyers")),
        *(_kit, _kit, _packs, _packs),
        *(_unknown_article, _unknown_article),
        *(_edited, _edited, _cancelled_late, _cancelled_late),
        *(_on_the_edge(1, 0, 10), _on_the_edge(31, 23, 40)),
        *(_long_title, _long_title),
        *(_many_lines(HEATHER), _many_lines(SOCK)),
        *(_extra("donation", "Mending fund"), _extra("duty", "Duty paid in advance")),
    )
    return [make(place) for place, make in enumerate(makers, start=FIRST_PLACE)]


def second_ones() -> list[Json]:
    """What stands once among the first sixty a second time, and the month's other cancellations."""
    makers = (
        *(_plain("a guest without e-mail", NAMELESS), _free, _over_three_equal_lines),
        *(_in_one_second("a new customer's first order", NEWCOMER["email"]),
          _in_one_second("her second in the same second, written otherwise", NEWCOMER["email"].upper())),
        *(_not_divisible, _three_such_lines),
        *(_cancelled_unpaid,) * 5,
    )  # fmt: skip
    return [make(place) for place, make in enumerate(makers, start=SECOND_PLACE)]


def _order(place: int, note: str, *, items: list[tuple[str, int]] | None = None, buyer: Json | None = None,
           **options: Any) -> Json:  # fmt: skip
    day = 3 + (place * 7) % 28
    placed = options.pop("placed", moment(day, 9 + place % 9, place % 60))
    return build(place, placed, buyer or shopper(place % 12), items or [(HEATHER, 1)], note=note, **options)


def _plain(note: str, buyer: Json) -> Any:
    return lambda place: _order(place, note, buyer=buyer)


def _paid_by_gift_card(whole: bool) -> Any:
    def make(place: int) -> Json:
        order = _order(place, f"{'wholly' if whole else 'partly'} paid by gift card")
        (money,) = order["received"]
        card = {**money, "transaction": f"gc_{place}", "by": "gift card", "with": "gift card", "voucher": "**** 0118"}
        parts = [card] if whole else [{**card, "sum": "10.00"}, {**money, "sum": _less(money["sum"], 1000)}]
        return {**order, "received": parts}

    return make


def _less(text: str, pence: int) -> str:
    return written(int(text.replace(".", "")) - pence)


def _with_row(order: Json, row: Json) -> Json:
    """The order with one row in place of its own; the totals stay."""
    return {**order, "basket": [{**order["basket"][0], **row}]}


def _gift_card_sold(place: int) -> Json:
    order = _order(place, "a gift card sold", carriage=None)
    row = {"article": "GIFT-25", "title": "Gift card, 25 pounds", "nature": "gift card", "price": "25.00",
           "sum": "25.00", "tax": UNTAXED, "card": f"**** {place:04d}"}  # fmt: skip
    received = [{**order["received"][0], "sum": "25.00"}]
    return {**_with_row(order, row), "tax": "0.00", "total": "25.00", "received": received}


def _business_abroad(place: int) -> Json:
    order = _order(place, "a buyer with a tax number in another country", buyer=TRADE_BUYER, carriage=2, export=True)
    return {**order, "treated_as": "reverse charge", "group": "trade", "terms": "30 days",
            "shopper": {**order["shopper"], "company": "Wollgarten GmbH", "tax_number": "DE136695976"}}  # fmt: skip


def _three_taxes(place: int) -> Json:
    order = _order(place, "state, county and city tax", buyer=overseas(0), carriage=None, export=True)
    parts = [
        {"name": "State tax", "area": "Colorado", "percent": "2.9", "sum": "0.54"},
        {"name": "County tax", "area": "Boulder County", "percent": "1.185", "sum": "0.22"},
        {"name": "City tax", "area": "Boulder", "percent": "3.86", "sum": "0.71"},
    ]
    taxed = _with_row(order, {"tax": {"class": "us-sales", "parts": parts}})
    received = [{**order["received"][0], "sum": "19.97"}]
    return {**taxed, "prices": "without tax", "tax": "1.47", "total": "19.97", "received": received}


def _foreign(currency: str, minor: int) -> Any:
    def make(place: int) -> Json:
        order = _order(place, f"in {currency}", buyer=overseas(1), carriage=None, export=True)
        amount = "3600" if minor == 1 else "7.250"
        row = {"price": amount, "sum": amount, "reduction": "0",
               "tax": {"class": "export", "percent": "0", "sum": "0"}}  # fmt: skip
        received = [{**order["received"][0], "sum": amount}]
        return {**_with_row(order, row), "currency": currency, "tax": "0", "total": amount, "received": received}

    return make


def _settled_otherwise(place: int) -> Json:
    order = _order(place, "placed in EUR, settled in GBP", buyer=TRADE_BUYER, carriage=None, export=True)
    settled = {"currency": "GBP", "sum": "16.09", "rate": "0.8697", "by": "the shop", "when": order["placed"]}
    # What really came: 8p more than the shop reckoned, and 7p less.
    came = {"sum": "16.17", "rate": "0.8741"} if place % 2 else {"sum": "16.02", "rate": "0.8659"}
    received = [{**order["received"][0], "settled": {**settled, **came, "by": "Weirgate"}}]
    return {**order, "currency": "EUR", "settled": settled, "received": received}


def _extra(kind: str, title: str) -> Any:
    def make(place: int) -> Json:
        order = _order(place, f"with a {kind}")
        extra = {"row": kind, "for": kind, "title": title, "sum": "2.00", "tax": UNTAXED}
        total = _less(order["total"], -200)
        return {**order, "extras": [extra], "total": total, "received": [{**order["received"][0], "sum": total}]}

    return make


def _kit(place: int) -> Json:
    order = _order(place, "a kit", items=[("BWL-YARN-ASH", 1)])
    contents = [{"article": HEATHER, "title": "Merino skein", "count": "1", "part": "18.50"},
                {"article": NEEDLES, "title": "Needles", "count": "2", "part": "13.50"}]  # fmt: skip
    return _with_row(order, {"article": "BOX-START", "title": "Starter box", "contents": contents})


def _packs(place: int) -> Json:
    return _with_row(_order(place, "two packs of six", items=[(NEEDLES, 2)]), {"pack": "6"})


def _unknown_article(place: int) -> Json:
    return _with_row(_order(place, "an unknown article"), {"article": "YRN-NO-SUCH", "title": "Discontinued skein"})


def _edited(place: int) -> Json:
    order = _order(place, "edited after it was placed", items=[(SLATE, 1)])
    event = {"event": 1, "did": "edited", "when": order["last_change"], "why": "one skein less",
             "was": _less(order["total"], -1850), "is": order["total"],
             "rows": [{"row": 1, "was": "2", "is": "1"}]}  # fmt: skip
    return {**_with_row(order, {"count_first": 2}), "history": [event]}


def _cancelled_late(place: int) -> Json:
    order = _order(place, "cancelled after it was paid", state="paid")
    event = {"event": 1, "did": "cancelled", "when": order["last_change"], "why": "changed her mind",
             "was": order["total"], "is": order["total"]}  # fmt: skip
    return {**order, "state": "cancelled", "history": [event]}


def _on_the_edge(day: int, hour: int, minute: int) -> Any:
    return lambda place: _order(place, "at the edge of the month", placed=moment(day, hour, minute))


def _long_title(place: int) -> Json:
    title = ("Hand-dyed merino skein in the colours of the moor at dusk, " * 5)[:250]
    return _with_row(_order(place, "a title of 250 characters"), {"title": title})


def _many_lines(sku: str) -> Any:
    return lambda place: _order(place, "400 lines", items=[(sku, 1)] * 400)


def _free(place: int) -> Json:
    return _order(place, "a free order", items=[("DYE-POW-MAD", 1)], carriage=None, off=("THANKYOU", 745))


def _over_three_equal_lines(place: int) -> Json:
    return _order(place, "a discount over three equal lines", items=[(HEATHER, 1)] * 3, off=("HARVEST10", 1000))


def _in_one_second(note: str, email: str) -> Any:
    return lambda place: _order(place, note, buyer={**NEWCOMER, "email": email}, placed=moment(21, 20, 15, 42))


def _not_divisible(place: int) -> Json:
    return _order(place, "a price that does not divide", items=[(SOCK, 1)])


def _three_such_lines(place: int) -> Json:
    return _order(place, "three such lines", items=[(SOCK, 1)] * 3)


def _cancelled_unpaid(place: int) -> Json:
    return _order(place, "cancelled before it was paid", state="cancelled")
