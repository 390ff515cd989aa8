"""What Weirgate paid out in October 2026: the web shop's takings by card, day by day, less what it kept of them.

On each weekday it pays what was taken up to the evening before; the bank has it on the next. A fee is 1.5 % of a charge
and 20 pence, and a fifth of that is tax on it, each rounded half up. A few entries stand by themselves.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.pence import pence_of

Json = dict[str, Any]
ONE_DAY = timedelta(days=1)
FIRST, LAST = date(2026, 10, 1), date(2026, 10, 30)
LONDON = ZoneInfo("Europe/London")
SATURDAY = 5
# What is neither charge nor refund: the day, the provider's word for it, pence, fee, and what it is about.
APART: tuple[tuple[date, str, int, int, str], ...] = (
    (date(2026, 10, 1), "plan", -2500, 0, ""),
    (date(2026, 10, 6), "set aside", -5000, 0, ""),
    (date(2026, 10, 8), "dispute", -3392, -1500, "wg_70005"),
    (date(2026, 10, 9), "dispute", -4945, -1500, "wg_70008"),
    (date(2026, 10, 20), "dispute won", 4945, 0, "wg_70008"),
    (date(2026, 10, 27), "set free", 5000, 0, ""),
)


def weirgate() -> Json:
    """The merchant's account at the provider, with all its payouts of the month, and what is in none yet."""
    made, left = _month()
    return {"company": facts()["weirgate"], "payouts": made, "open_entries": left}


def payouts() -> list[Json]:
    """Twenty-two of them: one on each weekday of the month."""
    made, _ = _month()
    return made


def _month() -> tuple[list[Json], list[Json]]:
    """The payouts of the month, and what was taken and stood in none of them at its end."""
    shop = month.web_shop()
    money = sorted([*_charges(shop["orders"]), *_refunds(shop["refunds"])], key=lambda one: (one["when"], one["entry"]))
    made: list[Json] = []
    day = FIRST
    while day <= LAST:
        if day.weekday() < SATURDAY:
            taken = [one for one in money if _day(one) < day]
            money = money[len(taken) :]
            made.append(_payout(len(made) + 1, day, [*taken, *_apart(day)]))
        day += ONE_DAY
    return made, money


def _charges(orders: list[Json]) -> Iterator[Json]:
    for order in orders:
        for paid in order["received"] if order["currency"] == "GBP" else ():
            if paid["by"] == "card" and paid.get("state", "in") == "in":
                pence = pence_of(paid["sum"])
                fee = (pence * 15 + 500) // 1000 + 20
                yield _entry("charge", pence, -fee, paid["transaction"], order["reference"], paid["when"])


def _refunds(refunds: list[Json]) -> Iterator[Json]:
    for refund in refunds:
        for paid in refund["paid_back"] if refund["currency"] == "GBP" else ():
            if paid["by"] == "card":
                yield _entry("payback", -pence_of(paid["sum"]), 0, paid["transaction"], refund["order"], paid["when"])


def _apart(day: date) -> Iterator[Json]:
    when = datetime(day.year, day.month, day.day, 6, tzinfo=LONDON).isoformat()
    for on, does, pence, fee, about in APART:
        if on == day:
            yield _entry(does, pence, fee, about, "", when)


def _entry(does: str, pence: int, fee: int, about: str, order: str, when: str) -> Json:
    tax = -((-fee * 20 + 50) // 100)
    name = about or does.replace(" ", "-")
    return {"entry": f"we_{does.replace(' ', '-')}_{name}", "does": does, "about": about, "shop_ref": order,
            "when": when, "minor": pence, "fee": fee, "fee_tax": tax, "left": pence + fee + tax}  # fmt: skip


def _day(entry: Json) -> date:
    return datetime.fromisoformat(entry["when"]).astimezone(LONDON).date()


def _payout(number: int, day: date, entries: list[Json]) -> Json:
    made = datetime(day.year, day.month, day.day, 7, tzinfo=LONDON).isoformat()
    lands = day + ONE_DAY
    while lands.weekday() >= SATURDAY:
        lands += ONE_DAY
    name = f"WP-{day:%y%m%d}"
    return {"payout": name, "seq": number, "by": "Weirgate", "made": made, "altered": made, "lands": lands.isoformat(),
            "money": "GBP", "minor": sum(one["left"] for one in entries), "statement_text": f"WEIRGATE {name}",
            "entries": entries}  # fmt: skip
