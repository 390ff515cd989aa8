"""The sheet of a month with 1,000,000 orders, beside one plain SQL sum of the same figures; a day's; and Today.

    ./inkwell bench tieout [ORDERS]

A few hundred orders are really carried, some of them left out or held; the others are copies of them, written straight
into the tables, spread over one month, with their figures, the totals of their days, and what stands between their
sides. Each page is asked for through the HTTP interface, first with 10,000 orders, then with all.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

import httpx
import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell
from psycopg.sql import SQL, Identifier

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

FEW, MANY, CARRIED, HELD = 10_000, 1_000_000, 300, 6
ROUNDS = 61
WORLD = "tieout"
MONTH, DAY = ("2026-10-01", "2026-10-31"), ("2026-10-13", "2026-10-13")
PAGES = {"month": ("tie-out", MONTH), "day": ("tie-out", DAY), "month, day by day": ("tie-out/days", MONTH),
         "Today": ("today", None)}  # fmt: skip
MONTH_AIM, DAY_AIM_MS, TODAY_AIM = 2.0, 50.0, 3.0
# Keys of copies begin here, so that those of an original and of its copies are told apart by what is added.
FIRST_KEY = 10_000_000
_COPIES = """
    INSERT INTO carriage_crossing (id, workspace_id, bridge_id, kind, source_id, parent_source_id, number, snapshot_id,
        posted_snapshot_id, rulebook_id, master_data_id, pinned, planned, findings, state, cause, left_out_by, trouble,
        tries, moment, business_date, currency, net, tax, gross, updated_at, trial, written_back)
    SELECT id + %(step)s::bigint * copy, workspace_id, bridge_id, kind, 'c' || copy || ':' || id, '',
        'MW-C' || copy || ':' || id, snapshot_id, posted_snapshot_id, rulebook_id, master_data_id, '{}', NULL, '[]',
        state, cause, left_out_by, '', 0, moment,
        date '2026-10-01' + ((id + copy) %% 31)::int, currency, net, tax, gross, now(), '', '[]'
    FROM carriage_crossing, generate_series(%(from)s::int, %(to)s::int) AS copy WHERE id < %(step)s
"""
_FIGURES = """
    INSERT INTO carriage_figure (workspace_id, bridge_id, crossing_id, side, grain, section, role, date, currency,
        account, tax_code, tender, count, net, tax, gross, written_at)
    SELECT workspace_id, bridge_id, crossing_id + %(step)s::bigint * copy, side, grain, section, role,
        date '2026-10-01' + ((crossing_id + copy) %% 31)::int, currency, account, tax_code, tender, count, net, tax,
        gross, now()
    FROM carriage_figure, generate_series(%(from)s::int, %(to)s::int) AS copy WHERE crossing_id < %(step)s
"""
_DIFFERENCES = """
    INSERT INTO carriage_difference (workspace_id, bridge_id, crossing_id, between, grain, section, date, currency,
        tax_code, tender, account, reason, detail, count, net, tax, gross)
    SELECT workspace_id, bridge_id, crossing_id + %(step)s::bigint * copy, between, grain, section,
        date '2026-10-01' + ((crossing_id + copy) %% 31)::int, currency, tax_code, tender, account, reason,
        detail, count, net, tax, gross
    FROM carriage_difference, generate_series(%(from)s::int, %(to)s::int) AS copy WHERE crossing_id < %(step)s
"""
_DAYS = """
    TRUNCATE carriage_daytotal;
    INSERT INTO carriage_daytotal (workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side,
        role, account, count, net, tax, gross, merged)
    SELECT workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role, account, sum(count),
        sum(net), sum(tax), sum(gross), true
    FROM carriage_figure WHERE section <> '' GROUP BY 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11
"""
# The floor: what any tie-out over the same rows has to read, in one statement.
_PLAIN = """
    SELECT currency, section, side, sum(count), sum(net), sum(tax), sum(gross) FROM carriage_figure
    WHERE workspace_id = (SELECT id FROM people_workspace WHERE slug = %(slug)s) AND section IN ('sales', 'refunds')
      AND grain = 'document' AND date BETWEEN %(first)s AND %(last)s GROUP BY 1, 2, 3
"""


class Took(NamedTuple):
    """How long one page took. Units: seconds."""

    median: float
    p95: float


def main() -> None:
    """Carry a few hundred, copy them, ask."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else MANY
    with installation() as (stack, db):
        _measure(stack, db, many)


def _measure(stack: Stack, db: psycopg.Connection[Any], many: int) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    client = Client(stack.address, token=token)
    calls = new_world(stack, client, WORLD, INTO_ERP)
    orders = list(plain_orders(INTO_ERP, CARRIED, again=False))
    # A few that cannot cross, so that there is something between the sides.
    tell(stack, WORLD, "web-shop", {"orders": [*orders[HELD:], *({**one, "currency": "KWD"} for one in orders[:HELD])]})
    run = calls.bridge(INTO_ERP.bridge).run()
    while calls.run(run.id).under_way:
        time.sleep(0.5)
    took: dict[str, list[Took]] = {}
    copied = 0
    for number in (FEW, many):
        copied = fill(db, number, copied)
        with httpx.Client(headers={"Authorization": f"Bearer {token}"}, timeout=300, trust_env=False) as http:
            for name, (path, days) in PAGES.items():
                address = f"{stack.address}/api/v1/workspaces/{WORLD}/{path}"
                took.setdefault(name, []).append(_timed(partial(_ask, http, address, days)))
        took.setdefault("plain", []).append(_timed(lambda: _plain(db), rounds=5))
    _told(took, many)


def _ask(http: httpx.Client, address: str, days: tuple[str, str] | None) -> None:
    http.get(address, params={"first": days[0], "last": days[1]} if days else None).raise_for_status()


def _told(took: dict[str, list[Took]], many: int) -> None:
    print(f"{'median, p95':<22}{FEW:>20,}{many:>22,}")
    for name, both in took.items():
        print(f"{name:<22}" + "".join(f"{1000 * one.median:>10.1f}, {1000 * one.p95:>6.1f} ms" for one in both))
    month = took["month"][1].median / took["plain"][1].median
    today = took["Today"][1].median / took["Today"][0].median
    print(f"a month's sheet: {month:.2f} times the plain sum (aim: at most {MONTH_AIM:g})")
    print(f"a day's sheet: {1000 * took['day'][1].p95:.0f} ms at p95 (aim: at most {DAY_AIM_MS:g})")
    print(f"Today: {today:.2f} times that with {FEW:,} (aim: at most {TODAY_AIM:g})")


def _plain(db: psycopg.Connection[Any]) -> None:
    db.execute(_PLAIN, {"slug": WORLD, "first": MONTH[0], "last": MONTH[1]}).fetchall()


def fill(db: psycopg.Connection[Any], number: int, copied: int) -> int:
    """As many crossings as that; answers how often each was copied by now."""
    started = time.perf_counter()
    with db.transaction(), db.cursor() as cursor:
        # Copies of what is right need no second look by triggers and foreign keys.
        cursor.execute("SET LOCAL session_replication_role = replica")
        to = max(copied + 1, number // CARRIED - 1)
        range_ = {"step": FIRST_KEY, "from": copied + 1, "to": to}
        for statement in (_COPIES, _FIGURES, _DIFFERENCES):
            cursor.execute(statement, range_)
        cursor.execute(_DAYS)
    db.execute("VACUUM ANALYZE")
    found = db.execute(
        "SELECT (SELECT count(*) FROM carriage_crossing), (SELECT count(*) FROM carriage_figure)"
    ).fetchone()
    crossings, figures = found or (0, 0)
    print(f"{crossings:,} orders with {figures:,} figures after {time.perf_counter() - started:.0f} s")
    return to


def _count(db: psycopg.Connection[Any], table: str) -> int:
    found = db.execute(SQL("SELECT count(*) FROM {}").format(Identifier(table))).fetchone()
    return found[0] if found else 0


def _timed(ask: Callable[[], object], rounds: int = ROUNDS) -> Took:
    # The first time finds nothing in memory.
    ask()
    times = []
    for _ in range(rounds):
        started = time.perf_counter()
        ask()
        times.append(time.perf_counter() - started)
    return Took(statistics.median(times), statistics.quantiles(times, n=20)[-1])


if __name__ == "__main__":
    main()
