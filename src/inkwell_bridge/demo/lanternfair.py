"""October 2026 at the marketplace: sales in EUR to the Irish company, in USD to the UK company, money handed back.

Amounts are whole cents, rates are millionths, and nothing of the product's core is used to work them out.
"""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.october import moment
from inkwell_bridge.demo.settlements import settlements

SEED = 20261003
IN_EUR, IN_USD = 30, 18
FIRST_KEY, FIRST_HANDBACK = 91_001, 95_001
# What becomes of the sales at these places of the month; all others are sent, or about to be.
UNPAID, CALLED_OFF, LONG, NAMELESS = (6, 37), (11,), (20,), (13, 40)
BUYERS = (
    ("Siobhán Ní Bhriain", "Ennis", "V95 A1B2", "IE"),
    ("Lorenz Abendroth", "Leipzig", "04103", "DE"),
    ("Maëlle d'Aubry", "Rennes", "35000", "FR"),
    ("Ingrid Solvang", "Tromsø", "9008", "NO"),
)
IN_COLORADO = ("Odette Farraday", "Boulder", "80302", "US")
IN_OREGON = ("Linus Whitlock", "Salem", "97301", "US")
Json = dict[str, Any]


def market() -> Json:
    """Everything that the client has at the marketplace."""
    sales = [_sale(place) for place in range(IN_EUR + IN_USD)]
    backs = handbacks(sales)
    return {"company": facts()["lanternfair"], "sales": sales, "handbacks": backs,
            "settlements": settlements(sales, backs)}  # fmt: skip


def first_sales(count: int = 12) -> Json:
    """A few of each currency, for what needs no more."""
    whole = market()
    few = [*whole["sales"][: count // 2], *whole["sales"][IN_EUR : IN_EUR + count // 2]]
    return {**whole, "sales": few, "handbacks": whole["handbacks"][:2], "settlements": []}


def _sale(place: int) -> Json:
    chance = random.Random(SEED + place)
    in_usd = place >= IN_EUR
    agreed = moment(1 + (place * 11) % 30, 7 + place % 13, chance.randrange(60))
    buyer = chance.choice((IN_COLORADO, IN_COLORADO, IN_OREGON)) if in_usd else BUYERS[place % len(BUYERS)]
    goods = [article for article in facts()["catalogue"] if article["class"] != "reduced"]
    count = 30 if place in LONG else chance.choice((1, 1, 2, 3))
    items = [_item(row, chance.choice(goods), chance.choice((1, 1, 2)), buyer) for row in range(1, count + 1)]
    postage = _charged({"label": "Fair post", "minor": 1450 if in_usd else 590}, "standard", buyer)
    charges = [*items, postage]
    tax = sum(part["minor"] for charge in charges for part in charge["taxes"])
    due = sum(charge["minor"] for charge in charges) + (tax if in_usd else 0)
    number = f"LF-26-{4101 + place}"
    progress = _progress(place)
    paid = [] if progress == "unpaid" else [_paid(f"lfp-{FIRST_KEY + place}", due, agreed)]
    return {
        "sale": number,
        "key": FIRST_KEY + place,
        "fair": "overseas" if in_usd else "continent",
        "agreed": agreed.isoformat(),
        "moved": (agreed + timedelta(minutes=9)).isoformat(),
        "progress": progress,
        "money": "USD" if in_usd else "EUR",
        "prices": "net" if in_usd else "gross",
        "tax_by": _tax_by(buyer),
        "for": _for(place, buyer),
        "items": items,
        "postage": postage,
        "paid": paid,
        "sums": {"tax": tax, "due": due},
        "page": f"https://lanternfair.example/sales/{number}",
    }


def _progress(place: int) -> str:
    if place in UNPAID:
        return "unpaid"
    if place in CALLED_OFF:
        return "called off"
    return "to send" if place % 3 == 0 else "sent"


def _tax_by(buyer: tuple[str, str, str, str]) -> str:
    return {"IE": "stand", "DE": "union", "FR": "union", "NO": "fair", "US": "fair"}[buyer[3]]


def _for(place: int, buyer: tuple[str, str, str, str]) -> Json:
    name, town, code, land = buyer
    to = {"street": ["7 Teasel Lane"], "place": town, "code": code, "land": land}
    if place in NAMELESS:
        return {"name": "", "relay": "", "to": to}
    return {"name": name, "relay": f"fairgoer-{FIRST_KEY + place}@relay.lanternfair.example", "to": to}


def _item(row: int, article: Json, count: int, buyer: tuple[str, str, str, str]) -> Json:
    group = {"PAT-BOOK-ISL": "books", "KIT-CHILD-HAT": "children"}.get(article["sku"], "standard")
    item = {"pos": row, "code": article["sku"], "label": article["title"], "how_many": count,
            "each": article["pence"], "minor": article["pence"] * count}  # fmt: skip
    return _charged(item, group, buyer)


def _charged(charge: Json, group: str, buyer: tuple[str, str, str, str]) -> Json:
    """A charge with its taxes: inside the price on the continent, on top of it overseas, where the fair keeps them."""
    kept = "fair" if _tax_by(buyer) == "fair" else "seller"
    rates = _rates(group, buyer)
    taxes = [
        {"name": name, "place": place, "millionths": rate, "goes_to": kept,
         "minor": _on_top(charge["minor"], rate) if buyer[3] == "US" else _inside(charge["minor"], rate)}
        for name, place, rate in rates
    ]  # fmt: skip
    return {**charge, "tax_group": group, "taxes": taxes}


def _rates(group: str, buyer: tuple[str, str, str, str]) -> list[tuple[str, str, int]]:
    groups = {entry["tax_group"]: entry["rates"] for entry in facts()["lanternfair"]["words"]["tax_groups"]}
    return [
        (rate["name"], rate.get("place", ""), int(Decimal(rate["percent"]) * 10_000))
        for rate in groups[group]
        if rate["land"] == buyer[3] and (buyer[3] != "US" or buyer == IN_COLORADO)
    ]


def _inside(cents: int, millionths: int) -> int:
    whole = 1_000_000 + millionths
    return (2 * cents * millionths + whole) // (2 * whole)


def _on_top(cents: int, millionths: int) -> int:
    return (2 * cents * millionths + 1_000_000) // 2_000_000


def _paid(ref: str, cents: int, on: datetime) -> Json:
    return {"ref": ref, "minor": cents, "on": (on + timedelta(minutes=1)).isoformat()}


def handbacks(sales: list[Json]) -> list[Json]:
    """One of each kind of money handed back: a whole sale, one item, postage alone, a goodwill amount."""
    paid = [sale for sale in sales if sale["progress"] == "sent"]
    kinds = ("whole", "item", "postage", "goodwill", "whole", "item")
    chosen = [*paid[:4], *[sale for sale in paid if sale["money"] == "USD"][:2]]
    return [_handback(place, sale, kind) for place, (sale, kind) in enumerate(zip(chosen, kinds, strict=False))]


def _handback(place: int, sale: Json, kind: str) -> Json:
    items = [{**item, "came_back": True} for item in sale["items"]] if kind == "whole" else sale["items"][:1]
    items = items if kind in {"whole", "item"} else []
    postage = sale["postage"] if kind in {"whole", "postage"} else None
    goodwill = [{"label": "With apologies", "minor": 300, "tax_group": "", "taxes": []}] if kind == "goodwill" else []
    charges = [*items, *([postage] if postage else []), *goodwill]
    tax = sum(part["minor"] for charge in charges for part in charge["taxes"])
    due = sum(charge["minor"] for charge in charges) + (tax if sale["prices"] == "net" else 0)
    on = datetime.fromisoformat(sale["agreed"]) + timedelta(days=2)
    return {
        "handback": f"LFH-{FIRST_HANDBACK + place}",
        "key": FIRST_HANDBACK + place,
        "sale": sale["sale"],
        "sale_key": sale["key"],
        "on": on.isoformat(),
        "moved": on.isoformat(),
        "money": sale["money"],
        "prices": sale["prices"],
        "why": kind,
        "items": items,
        "postage": postage,
        "goodwill": goodwill,
        "paid": [_paid(f"lfr-{FIRST_HANDBACK + place}", due, on)],
        "sums": {"tax": tax, "due": due},
    }
