"""What Lanternfair settled for October 2026: two weeks at a time, one settlement a currency, in one report each time.

A sale comes to what the buyer paid less the taxes that the fair keeps; its commission is 12 % of that, rounded half up.
Sales that were called off are in no settlement. A few rows stand by themselves.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

Json = dict[str, Any]
DUBLIN = ZoneInfo("Europe/Dublin")
# The first and the last day of each, and its letter.
STRETCHES = ((date(2026, 10, 1), date(2026, 10, 14), "A"), (date(2026, 10, 15), date(2026, 10, 28), "B"))
# What is of no sale: the settlement, the marketplace's word for it, and cents.
APART = {
    "LS-2610A-EUR": (("stand rent", -3900), ("held back", -10000)),
    "LS-2610B-EUR": (("advert", -2500), ("let go", 10000)),
}
FIRST_KEY = 97_001


def settlements(sales: list[Json], handbacks: list[Json]) -> list[Json]:
    """Those of the month, the oldest first."""
    made = [_settlement(*stretch, money, sales, handbacks) for stretch in STRETCHES for money in ("EUR", "USD")]
    return [{**one, "key": FIRST_KEY + place} for place, one in enumerate(made)]


def _settlement(
    first: date, last: date, letter: str, money: str, sales: list[Json], handbacks: list[Json]
) -> Json:  # fmt: skip
    number = f"LS-2610{letter}-{money}"
    made = datetime(last.year, last.month, last.day, 6, tzinfo=DUBLIN) + timedelta(days=1)
    rows = [
        *(row for sale in sales if sale["progress"] != "called off" for row in _of_sale(sale, money, first, last)),
        *(row for back in handbacks for row in _moved("handback", back, -1, money, first, last)),
        *(_row(what, "", "", cents, made) for what, cents in APART.get(number, ())),
    ]
    return {
        "settlement": number, "report": f"RP-2610{letter}", "money": money, "due": sum(row["cents"] for row in rows),
        "since": _at(first), "until": _at(last + timedelta(days=1)), "made": made.isoformat(),
        "moved": made.isoformat(), "lands": (made.date() + timedelta(days=1)).isoformat(),
        "bank_words": f"LANTERNFAIR {number}",
        "rows": [{**row, "row": f"{number}-{place}"} for place, row in enumerate(rows, start=1)],
    }  # fmt: skip


def _of_sale(sale: Json, money: str, first: date, last: date) -> Iterator[Json]:
    for row in _moved("sale", sale, 1, money, first, last):
        yield row
        commission = (row["cents"] * 12 + 50) // 100
        yield {**row, **_amount(-commission), "what": "commission"}


def _moved(what: str, told: Json, sign: int, money: str, first: date, last: date) -> Iterator[Json]:
    """The money of a sale, or that was handed back, that moved in these days, less the taxes that the fair keeps."""
    charges = [*told["items"], *([told["postage"]] if told["postage"] else []), *told.get("goodwill", [])]
    kept = sum(tax["minor"] for charge in charges for tax in charge["taxes"] if tax["goes_to"] == "fair")
    for paid in told["paid"] if told["money"] == money else ():
        on = datetime.fromisoformat(paid["on"])
        if first <= on.astimezone(DUBLIN).date() <= last:
            yield _row(what, told["sale"], paid["ref"], sign * (paid["minor"] - kept), on)


def _row(what: str, sale: str, ref: str, cents: int, on: datetime) -> Json:
    return {"what": what, "sale": sale, "ref": ref, "on": on.isoformat(), "tax": "", "says": "", **_amount(cents)}


def _amount(cents: int) -> Json:
    sign = "-" if cents < 0 else ""
    return {"cents": cents, "amount": f"{sign}{abs(cents) // 100}.{abs(cents) % 100:02}"}


def _at(day: date) -> str:
    return datetime(day.year, day.month, day.day, tzinfo=DUBLIN).isoformat()
