"""The whole of October 2026: what every shop of the demo's client holds, in the shops' own words."""

from __future__ import annotations

import random
from typing import Any

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.october import build, everyday, moment, october
from inkwell_bridge.demo.odd_ones import odd_orders
from inkwell_bridge.demo.pence import tax_inside, written

EVERYDAY_FROM, EVERYDAY_TO = 100, 168
IRISH_SEED = 20261002
IRISH_ORDERS = 24
Json = dict[str, Any]


def web_shop() -> Json:
    """The web shop: orders, customers, products, refunds, stock."""
    chance = random.Random(EVERYDAY_FROM)
    more = [everyday(place, chance) for place in range(EVERYDAY_FROM, EVERYDAY_TO)]
    orders = [*october(), *odd_orders(), *more]
    return {
        "shop": facts()["web_shop"],
        "orders": orders,
        "customers": customers(),
        "products": products(),
        "refunds": refunds({order["reference"]: order for order in orders}),
        "stock": stock(),
    }


def irish_shop() -> Json:
    """The small shop of the Irish company, in EUR."""
    chance = random.Random(IRISH_SEED)
    return {"shop": facts()["irish_shop"], "orders": [_irish(place, chance) for place in range(IRISH_ORDERS)]}


def _irish(place: int, chance: random.Random) -> Json:
    article = chance.choice(facts()["catalogue"][:10])
    kind = "reduced" if place == 7 else article["class"]
    shopper = {**chance.choice(facts()["shoppers"]), "country": "IE", "town": "Galway", "postcode": "H91 E2K1"}
    state = "awaiting payment" if place == 15 else "paid"
    placed = moment(2 + place, 10, place)
    order = build(place, placed, shopper, [(article["sku"], chance.choice((1, 2, 3)))], state=state)
    number = f"MI-{20_001 + place}"
    page = f"{facts()['irish_shop']['page']}/orders/{number}"
    received = [{**money, "transaction": f"wi_{place}"} for money in order["received"]]
    own = {"id": 70_000 + place, "reference": number, "currency": "EUR", "page": page, "received": received}
    return _taxed({**order, **own}, kind)


def _taxed(order: Json, kind: str) -> Json:
    """The same with Irish tax inside its prices."""
    rates = facts()["irish_rates"]
    total_tax = 0
    for part, tax_class in ((order["basket"][0], kind), (order["carriage"], "standard")):
        tax = tax_inside(int(part["sum"].replace(".", "")), rates[tax_class])
        part["tax"] = {"class": tax_class, "percent": str(rates[tax_class]), "sum": written(tax)}
        total_tax += tax
    return {**order, "tax": written(total_tax)}


def customers() -> list[Json]:
    """Everybody with an account; one gave no e-mail."""
    people = [*facts()["shoppers"], *facts()["overseas"]]
    found = [_customer(number, person) for number, person in enumerate(people, start=1)]
    nameless = {"first": "Walter", "last": "Speight", "email": "", "town": "Keighley", "postcode": "BD21 1AA",
                "country": "GB"}  # fmt: skip
    return [*found, _customer(len(people) + 1, nameless)]


def _customer(number: int, person: Json) -> Json:
    address = {"name": f"{person['first']} {person['last']}", "lines": ["4 Spindle Row"], "town": person["town"],
               "postcode": person["postcode"], "country": person["country"]}  # fmt: skip
    return {
        "id": number,
        "reference": f"C-{number:04d}",
        "last_change": moment(1 + number, 8).isoformat(),
        "email": person["email"],
        "first_name": person["first"],
        "last_name": person["last"],
        "phone": f"020 7946 0{number:03d}",
        "group": "friends of the mill" if number % 3 == 0 else "retail",
        "bill_to": address,
        "ship_to": address,
    }


def products() -> list[Json]:
    """Everything in the catalogue."""
    return [
        {
            "id": number,
            "reference": article["sku"],
            "last_change": moment(1, 7).isoformat(),
            "title": article["title"],
            "currency": "GBP",
            "price": written(article["pence"]),
            "prices": "with tax",
            "class": article["class"],
            "barcode": f"50123456{number:05d}",
        }
        for number, article in enumerate(facts()["catalogue"], start=1)
    ]


def stock() -> list[Json]:
    """How much of each article both places have."""
    return [
        {
            "id": 2 * number + half,
            "reference": f"{article['sku']} {place}",
            "article": article["sku"],
            "at": place,
            "there": str(40 + number),
            "free": str(38 + number),
            "last_change": moment(1, 6).isoformat(),
        }
        for number, article in enumerate(facts()["catalogue"], start=1)
        for half, place in enumerate(("Dyehouse", "Mill"))
    ]


def refunds(orders: dict[str, Json]) -> list[Json]:
    """Of goods, of carriage, of goodwill; one that is older than its order's own time of change, one of no order."""
    kinds = ("goods", "carriage", "goodwill", "goods", "goodwill", "carriage", "early", "no order")
    numbers = ["MW-10001", "MW-10004", "MW-10007", "MW-10010", "MW-10013", "MW-10016", "MW-10019", "MW-99999"]
    return [
        _refund(801 + place, kind, number, orders.get(number))
        for place, (kind, number) in enumerate(zip(kinds, numbers, strict=True))
    ]


def _refund(number: int, kind: str, order_number: str, order: Json | None) -> Json:
    when = moment(3 if kind == "early" else 20 + number % 8, 12)
    base = {
        "id": number,
        "reference": f"MW-R-{number}",
        "order": order_number,
        "order_id": order["id"] if order else 0,
        "when": when.isoformat(),
        "last_change": when.isoformat(),
        "currency": "GBP",
        "prices": "with tax",
    }
    row = order["basket"][0] if order and kind in {"goods", "early"} else None
    carriage = order["carriage"] if order and kind == "carriage" else None
    if row:
        money, tax = row["sum"], row["tax"]["sum"]
        parts: Json = {"rows": [{name: row[name] for name in ("row", "article", "title", "count", "sum", "tax")}]}
    elif carriage:
        money, tax, parts = carriage["sum"], carriage["tax"]["sum"], {"carriage": carriage}
    else:
        money, tax = "3.00", "0.00"
        outside = {"class": "outside", "percent": "0", "sum": "0.00"}
        parts = {"goodwill": [{"row": "goodwill", "title": "For the trouble", "sum": money, "tax": outside}]}
    back = {"transaction": f"wg_r_{number}", "by": "card", "with": "card", "sum": money, "when": when.isoformat()}
    return {**base, **parts, "tax": tax, "total": money, "paid_back": [back]}
