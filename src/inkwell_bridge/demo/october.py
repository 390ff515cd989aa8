"""The first sixty orders of October 2026 at the web shop: odd ones by hand, the rest from a fixed seed."""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.pence import shared, tax_inside, written

SEED = 20261001
ORDERS = 60
FIRST_NUMBER = 10001
FIRST_ACCOUNT, NEW_ACCOUNTS = 901, 1000

Item = tuple[str, int]


def october() -> list[dict[str, Any]]:
    """The month's orders in the web shop's own shape, oldest first."""
    orders = _odd_ones()
    chance = random.Random(SEED)
    taken = {place for place, _ in orders}
    orders += [(place, everyday(place, chance)) for place in range(ORDERS) if place not in taken]
    return [order for _, order in sorted(orders, key=lambda pair: pair[0])]


def _odd_ones() -> list[tuple[int, dict[str, Any]]]:
    """Each odd order, at its place in the month; expected.yaml says what must become of it."""
    sock, heather, slate, moss = "YRN-SOCK-FEN", "YRN-MER4-HEA", "YRN-MER4-SLA", "YRN-LACE-MOS"
    new = {
        "first": "Beatrix",
        "last": "Nettleship",
        "email": "Beatrix.Nettleship@Skeinery.example",
        "town": "Ludlow",
        "postcode": "SY8 1AZ",
        "country": "GB",
    }
    again = {**new, "email": "beatrix.nettleship@skeinery.example "}
    nameless = {"first": "", "last": "", "email": "", "town": "Whitby", "postcode": "YO21 3PU", "country": "GB"}
    at = moment
    return [
        (2, build(2, at(3, 9, 30), shopper(0), [(sock, 1)], note="a price that does not divide")),
        (5, build(5, at(3, 11, 0), shopper(4), [(sock, 1), (sock, 1), (sock, 1)], note="three such lines")),
        (
            8,
            build(
                8,
                at(5, 14, 20),
                shopper(5),
                [(heather, 1), (slate, 1), (heather, 1)],
                off=("HARVEST10", 1000),
                note="a discount over three equal lines",
            ),
        ),
        (
            11,
            build(
                11,
                at(6, 10, 5),
                shopper(6),
                [("PAT-BOOK-ISL", 1), ("KIT-CHILD-HAT", 2)],
                carriage=None,
                note="zero-rated lines alone",
            ),
        ),
        (
            14,
            build(
                14,
                at(8, 16, 45),
                shopper(7),
                [("PAT-BOOK-ISL", 1), (moss, 2)],
                carriage=1,
                note="zero-rated and standard lines with carriage",
            ),
        ),
        (17, build(17, at(9, 12, 12), {**shopper(8), "guest": True}, [(slate, 2)], note="a guest with an e-mail")),
        (20, build(20, at(12, 8, 0), {**nameless, "guest": True}, [("NDL-BAM-40", 1)], note="a guest without e-mail")),
        (23, build(23, at(13, 19, 30, 7), new, [(heather, 1)], note="a new customer's first order")),
        (24, build(24, at(13, 19, 30, 7), again, [(sock, 2)], note="her second in the same second, written otherwise")),
        (
            27,
            build(
                27,
                at(15, 9, 9),
                shopper(9),
                [("DYE-POW-MAD", 1)],
                carriage=None,
                off=("THANKYOU", 745),
                note="a free order",
            ),
        ),
        (30, build(30, at(17, 13, 0), shopper(10), [("AID-EASYGRIP", 1), (heather, 1)], note="an unmapped tax class")),
        (33, build(33, at(19, 15, 15), shopper(11), [("AID-EASYGRIP", 2)], note="an unmapped tax class")),
        (36, build(36, at(20, 10, 40), overseas(0), [(heather, 3)], carriage=2, export=True, note="an export")),
        (39, build(39, at(22, 7, 55), overseas(1), [("BWL-YARN-ASH", 1)], carriage=2, export=True, note="an export")),
        (42, build(42, at(23, 17, 25), shopper(1), [(moss, 1)], state="awaiting payment", note="not paid yet")),
        (
            45,
            build(45, at(25, 12, 0), shopper(2), [(sock, 4)], state="cancelled", note="cancelled before it was paid"),
        ),
        (
            48,
            build(
                48,
                at(26, 9, 0),
                shopper(3),
                [(sock, 7), ("DYE-POW-MAD", 3)],
                off=("HARVEST10", 1000),
                note="a discount that does not divide, over unequal lines",
            ),
        ),
        (51, build(51, at(28, 18, 18), shopper(0), [("CON-WOOL-1KG", 12)], carriage=1, note="a large quantity")),
        (
            59,
            build(
                59,
                at(31, 19, 40),
                shopper(5),
                [(heather, 1), (sock, 1)],
                state="awaiting payment",
                note="not paid yet",
            ),
        ),
    ]


def everyday(place: int, chance: random.Random) -> dict[str, Any]:
    """An order as any other, at its place in the month."""
    goods = [article for article in facts()["catalogue"] if article["class"] != "reduced"]
    items = [
        (chance.choice(goods)["sku"], chance.choice((1, 1, 1, 2, 2, 3))) for _ in range(chance.choice((1, 1, 2, 3)))
    ]
    person = chance.choice(facts()["shoppers"])
    placed = moment(1 + (place * 30 // ORDERS) % 30, 8 + place % 11, chance.randrange(60), chance.randrange(60))
    off = ("HARVEST5", 150) if chance.random() < 0.2 else None
    return build(
        place,
        placed,
        person,
        items,
        carriage=chance.choice((0, 0, 1, None)),
        off=off,
        state=chance.choice(("paid", "completed", "completed")),
    )


def build(
    place: int,
    placed: datetime,
    person: dict[str, Any],
    items: list[Item],
    *,
    carriage: int | None = 0,
    off: tuple[str, int] | None = None,
    state: str = "paid",
    export: bool = False,
    note: str = "",
) -> dict[str, Any]:
    """One order as the shop would hand it out; amounts are text with two digits."""
    basket, goods_tax, goods = _basket(items, off[1] if off else 0, export)
    parcel = _parcel(carriage, export)
    carriage_sum = parcel["pence"] if parcel else 0
    total = goods - (off[1] if off else 0) + carriage_sum
    tax = goods_tax + (parcel["tax_pence"] if parcel else 0)
    number = f"MW-{FIRST_NUMBER + place}"
    paid = state in {"paid", "completed"} and total
    return {
        "id": 50_000 + place,
        "reference": number,
        "state": state,
        "placed": placed.isoformat(),
        "last_change": (placed + timedelta(minutes=4)).isoformat(),
        "currency": "GBP",
        "prices": "with tax",
        "shopper": _person(place, person),
        "bill_to": _address(person),
        "ship_to": _address(person),
        "basket": basket,
        "vouchers": [{"code": off[0], "title": f"Voucher {off[0]}", "sum": written(off[1])}] if off else [],
        "carriage": parcel["written"] if parcel else None,
        "received": [_received(place, total, placed)] if paid else [],
        "tax": written(tax),
        "total": written(total),
        "note": note,
        "page": f"{facts()['web_shop']['page']}/orders/{number}",
    }


def _basket(items: list[Item], off: int, export: bool) -> tuple[list[dict[str, Any]], int, int]:
    articles = {article["sku"]: article for article in facts()["catalogue"]}
    sums = [articles[sku]["pence"] * count for sku, count in items]
    shares = shared(off, sums) if off else [0] * len(items)
    rows, tax_total = [], 0
    for row, ((sku, count), amount, share) in enumerate(zip(items, sums, shares, strict=True)):
        article = articles[sku]
        kind = "export" if export else article["class"]
        percent = facts()["rates"][kind]
        tax = tax_inside(amount - share, percent)
        tax_total += tax
        rows.append(
            {
                "row": row + 1,
                "article": sku,
                "title": article["title"],
                "count": count,
                "price": written(article["pence"]),
                "sum": written(amount),
                "reduction": "0.00",
                "tax": {"class": kind, "percent": str(percent), "sum": written(tax)},
            }
        )
    return rows, tax_total, sum(sums)


def _parcel(choice: int | None, export: bool) -> dict[str, Any] | None:
    if choice is None:
        return None
    fact = facts()["carriage"][choice]
    kind = "export" if export else "standard"
    tax = tax_inside(fact["pence"], facts()["rates"][kind])
    sums = {"class": kind, "percent": str(facts()["rates"][kind]), "sum": written(tax)}
    return {
        "pence": fact["pence"],
        "tax_pence": tax,
        "written": {"title": fact["title"], "sum": written(fact["pence"]), "tax": sums},
    }


def _received(place: int, total: int, placed: datetime) -> dict[str, Any]:
    return {
        "transaction": f"wg_{70_000 + place}",
        "by": "card",
        "with": "card",
        "sum": written(total),
        "when": (placed + timedelta(minutes=1)).isoformat(),
    }


def account_number(person: dict[str, Any]) -> int:
    """A person's number at the shop, in its list of customers and on their orders."""
    emails = [one["email"] for one in (*facts()["shoppers"], *facts()["overseas"])]
    if person["email"] in emails:
        return FIRST_ACCOUNT + emails.index(person["email"])
    # Who opened an account with an order of the month, and stands in no list of the month before.
    return NEW_ACCOUNTS + sum(map(ord, person["last"])) % 97


def _person(place: int, person: dict[str, Any]) -> dict[str, Any]:
    return {
        "account": None if person.get("guest") else account_number(person),
        "email": person["email"],
        "first_name": person["first"],
        "last_name": person["last"],
        "phone": f"020 7946 0{place:03d}" if person["email"] else "",
    }


def _address(person: dict[str, Any]) -> dict[str, Any]:
    name = f"{person['first']} {person['last']}".strip()
    return {
        "name": name,
        "lines": ["4 Spindle Row"],
        "town": person["town"],
        "postcode": person["postcode"],
        "country": person["country"],
    }


def shopper(place: int) -> dict[str, Any]:
    """One of the regular shoppers."""
    return dict(facts()["shoppers"][place])


def overseas(place: int) -> dict[str, Any]:
    """One of those abroad."""
    return dict(facts()["overseas"][place])


def moment(day: int, hour: int, minute: int = 0, second: int = 0) -> datetime:
    """A moment of October, on the clocks of London."""
    return datetime(2026, 10, day, hour, minute, second, tzinfo=ZoneInfo("Europe/London"))
