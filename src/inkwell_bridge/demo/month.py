"""The whole of October 2026: what every shop of the demo's client holds, in the shops' own words."""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from typing import Any

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.october import FIRST_ACCOUNT, account_number, build, everyday, moment, october
from inkwell_bridge.demo.odd_ones import odd_orders, second_ones
from inkwell_bridge.demo.pence import tax_inside, written

EVERYDAY_FROM, EVERYDAY_TO = 100, 168
IRISH_SEED = 20261002
IRISH_ORDERS = 24
REFUNDS_OF_A_KIND = {"goods": 8, "quantity": 6, "carriage": 4, "goodwill": 4}
# An order that the shop took on an older system: a refund of it knows its number alone.
STRANGER = {"reference": "MW-99999", "id": 0, "placed": "2026-10-18T10:00:00+01:00"}
Json = dict[str, Any]


def web_shop() -> Json:
    """The web shop: orders, customers, products, refunds, stock."""
    chance = random.Random(EVERYDAY_FROM)
    more = [everyday(place, chance) for place in range(EVERYDAY_FROM, EVERYDAY_TO)]
    orders = [*october(), *odd_orders(), *more, *second_ones()]
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
        "id": account_number(person) if person["email"] else FIRST_ACCOUNT + number - 1,
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
    """Everything in the catalogue, and what is listed besides."""
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
            "pack": article.get("pack", "1"),
            "contents": article.get("contents", []),
        }
        for number, article in enumerate([*facts()["catalogue"], *facts()["more_products"]], start=1)
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
    """Every kind more than once: of a line, of quantity, of carriage, of goodwill; also the odd ones.

    Odd are those that reach us before their order (``early``), in a locked period, and of no order known here.
    """
    plain = [order for order in orders.values() if _is_plain(order)]
    chosen = [("locked", order) for order in plain[:2]]
    chosen += [("early", order) for order in plain[2:4]]
    for kind, wanted in REFUNDS_OF_A_KIND.items():
        fitting = [order for order in plain[4:] if _allows(kind, order) and all(order is not one for _, one in chosen)]
        chosen += [(kind, order) for order in fitting[:wanted]]
    found = [_refund(801 + place, kind, order) for place, (kind, order) in enumerate(chosen)]
    strangers = [_refund(801 + len(found) + place, "goodwill", STRANGER) for place in range(2)]
    return [*found, *strangers]


def _is_plain(order: Json) -> bool:
    return order["state"] in {"paid", "completed"} and not order["note"] and not order["vouchers"]


def _allows(kind: str, order: Json) -> bool:
    if kind == "quantity":
        return bool(order["basket"][0]["count"] > 1)
    return kind != "carriage" or bool(order["carriage"])


def _moment_of(kind: str, order: Json) -> datetime:
    if kind == "locked":
        return moment(2, 12)
    if kind == "early":
        return datetime.fromisoformat(order["placed"]) - timedelta(hours=1)
    return datetime.fromisoformat(order["placed"]) + timedelta(days=3)


def _refund(number: int, kind: str, order: Json) -> Json:
    when = _moment_of(kind, order)
    base = {
        "id": number,
        "reference": f"MW-R-{number}",
        "order": order["reference"],
        "order_id": order["id"],
        "when": when.isoformat(),
        "last_change": when.isoformat(),
        "currency": "GBP",
        "prices": "with tax",
    }
    money, tax, parts = _given_back(kind, order)
    back = {"transaction": f"wg_r_{number}", "by": "card", "with": "card", "sum": money, "when": when.isoformat()}
    return {**base, **parts, "tax": tax, "total": money, "paid_back": [back]}


def _given_back(kind: str, order: Json) -> tuple[str, str, Json]:
    """The sum, the tax in it, and the part of the order that it is for."""
    if kind == "goodwill":
        outside = {"class": "outside", "percent": "0", "sum": "0.00"}
        trouble = {"row": "goodwill", "title": "For the trouble", "sum": "3.00", "tax": outside}
        return "3.00", "0.00", {"goodwill": [trouble]}
    if kind == "carriage":
        return order["carriage"]["sum"], order["carriage"]["tax"]["sum"], {"carriage": order["carriage"]}
    row = {name: order["basket"][0][name] for name in ("row", "article", "title", "count", "sum", "tax")}
    if kind == "quantity":
        price = order["basket"][0]["price"]
        tax = written(tax_inside(int(price.replace(".", "")), int(row["tax"]["percent"])))
        row |= {"count": 1, "sum": price, "tax": {**row["tax"], "sum": tax}}
    return row["sum"], row["tax"]["sum"], {"rows": [row]}
