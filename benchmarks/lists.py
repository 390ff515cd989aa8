"""The lists with 1,000,000 source documents, beside the same lists with 10,000.

    ./inkwell bench lists [DOCUMENTS]

A few hundred orders are really carried; the others are copies of them, written straight into the tables with numbers,
moments, amounts, states and documents of their own. Each filter, sort, further page and search is asked for through the
HTTP interface, and printed beside what it took with 10,000: the aim is within three times.
"""

from __future__ import annotations

import statistics
import sys
import time
from typing import Any

import httpx
import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

FEW, MANY, CARRIED = 10_000, 1_000_000, 300
ROUNDS = 7
WORLD = "lists"
AIM = 3.0
# Keys of copies begin here, and tell those of their documents, so that nothing has to be joined.
FIRST_KEY = 1_000_000
# Copies are spread over three years, a few held, left out and differing among them; the books number what was carried.
_COPIES = """
    WITH made AS (
        SELECT original.*, copy, row_number() OVER () + %(from)s AS place,
               original.moment - (random() * interval '1095 days') AS at
        FROM (SELECT * FROM carriage_crossing WHERE number LIKE 'MW-B%%' ORDER BY id LIMIT %(originals)s) AS original,
             generate_series(1, %(each)s) AS copy)
    INSERT INTO carriage_crossing (id, workspace_id, bridge_id, kind, source_id, parent_source_id, number, snapshot_id,
        posted_snapshot_id, rulebook_id, master_data_id, pinned, planned, findings, state, cause, left_out_by, trouble,
        tries, moment, business_date, currency, net, tax, gross, updated_at, trial, written_back)
    SELECT %(first)s + place, workspace_id, bridge_id, kind, 'c' || place, '', 'MW-C' || place, snapshot_id,
        posted_snapshot_id, rulebook_id, master_data_id, '{}', NULL, '[]',
        CASE WHEN place %% 500 = 0 THEN 'held' WHEN place %% 97 = 0 THEN 'left out' ELSE 'carried' END,
        CASE WHEN place %% 1000 = 0 THEN 'period-locked' WHEN place %% 500 = 0 THEN 'account-missing' ELSE '' END,
        '', '', 0, at, at::date, currency, net, tax, gross + (place %% 1000), at, '', '[]'
    FROM made
"""
_DOCUMENTS = """
    INSERT INTO carriage_document (id, workspace_id, connection_id, role, external_reference, state, planned, reasons,
        contact_id, books_id, books_number, link, date, currency, difference, net, tax, gross, proved_at)
    SELECT 2 * crossing.id + part, crossing.workspace_id, bridge.books_id, role, crossing.source_id || ':' || role,
        'proved', '{}', '[]', '', crossing.id || role, 'INV-C' || crossing.id || left(role, 1), '',
        crossing.business_date, crossing.currency, CASE WHEN crossing.id %% 50 = 0 THEN 0.01 ELSE 0 END, crossing.net,
        crossing.tax, crossing.gross, now()
    FROM carriage_crossing AS crossing JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id,
        (VALUES (1, 'invoice'), (2, 'payment')) AS parts (part, role)
    WHERE crossing.id > %(after)s
"""
_SHARES = """
    INSERT INTO carriage_documentsource (workspace_id, document_id, crossing_id, part, net, tax, gross)
    SELECT workspace_id, 2 * id + part, id, part, net, tax, gross
    FROM carriage_crossing, generate_series(1, 2) AS part WHERE id > %(after)s
"""
LISTS: dict[str, tuple[str, dict[str, Any]]] = {
    "documents, newest first": ("crossings", {}),
    "oldest first": ("crossings", {"sort": "placed"}),
    "largest first": ("crossings", {"sort": "-gross"}),
    "smallest first": ("crossings", {"sort": "gross"}),
    "by number": ("crossings", {"sort": "number"}),
    "by number, last first": ("crossings", {"sort": "-number"}),
    "held": ("crossings", {"state": "held"}),
    "carried": ("crossings", {"state": "carried"}),
    "held or left out": ("crossings", {"state": ["held", "left out"]}),
    "waiting (none)": ("crossings", {"state": "waiting"}),
    "with a cause": ("crossings", {"cause": "period-locked"}),
    "of a bridge": ("crossings", {"bridge": INTO_ERP.bridge}),
    "of a day long ago": ("crossings", {"placed_from": "2024-03-01", "placed_to": "2024-03-01"}),
    "of a year": ("crossings", {"placed_from": "2025-01-01", "placed_to": "2025-12-31"}),
    "where the penny was settled": ("crossings", {"differing": "true"}),
    "search: one number": ("crossings", {"search": "MW-C7777"}),
    "search: a number of the books": ("crossings", {"search": "INV-C777"}),
    "search: nothing has it": ("crossings", {"search": "ZEBRA"}),
    "search: everything has it": ("crossings", {"search": "MW-"}),
    "search: two characters": ("crossings", {"search": "MW"}),
    "search: two characters, none": ("crossings", {"search": "ZQ"}),
    "search among the held": ("crossings", {"search": "MW-C", "state": "held"}),
    "documents in the books": ("documents", {}),
    "one by its order's number": ("documents", {"order_number": "MW-B000007"}),
}


def main() -> None:
    """Carry a few hundred, copy them, ask."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else MANY
    with installation() as (stack, db):
        _measure(stack, db, many)


def _measure(stack: Stack, db: psycopg.Connection[Any], many: int) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    client = Client(stack.address, token=token)
    calls = new_world(stack, client, WORLD, INTO_ERP)
    tell(stack, WORLD, "web-shop", {"orders": list(plain_orders(INTO_ERP, CARRIED, again=False))})
    run = calls.bridge(INTO_ERP.bridge).run()
    while calls.run(run.id).under_way:
        time.sleep(0.5)
    took: dict[str, list[float]] = {}
    for number in (FEW, many):
        fill(db, number)
        with httpx.Client(headers={"Authorization": f"Bearer {token}"}, timeout=120, trust_env=False) as http:
            for name, seconds in _ask_all(http, f"{stack.address}/api/v1/workspaces/{WORLD}"):
                took.setdefault(name, []).append(seconds)
    print(f"{'list':<34}{FEW:>12,}{many:>14,}   ratio (aim: at most {AIM:g})")
    for name, (before, after) in took.items():
        ratio = after / before
        print(f"{name:<34}{1000 * before:>9.1f} ms{1000 * after:>11.1f} ms {ratio:>7.1f}{'' if ratio <= AIM else ' *'}")


def fill(db: psycopg.Connection[Any], number: int) -> None:
    """As many crossings as that, with two documents each."""
    started = time.perf_counter()
    with db.transaction(), db.cursor() as cursor:
        # Copies of what is right need no second look by triggers and foreign keys.
        cursor.execute("SET LOCAL session_replication_role = replica")
        cursor.execute("SELECT count(*), greatest(max(id), %s) FROM carriage_crossing", [FIRST_KEY])
        there, newest = cursor.fetchone() or (0, 0)
        each = max(1, (number - there) // CARRIED)
        cursor.execute(_COPIES, {"from": newest - FIRST_KEY, "first": FIRST_KEY, "originals": CARRIED, "each": each})
        cursor.execute(_DOCUMENTS, {"after": newest})
        cursor.execute(_SHARES, {"after": newest})
    db.execute("VACUUM ANALYZE")
    found = db.execute("SELECT count(*) FROM carriage_crossing").fetchone()
    print(f"{found[0] if found else 0:,} crossings after {time.perf_counter() - started:.0f} s")


def _ask_all(http: httpx.Client, workspace: str) -> list[tuple[str, float]]:
    result = []
    for name, (path, query) in LISTS.items():
        address = f"{workspace}/{path}"
        result.append((name, _median(http, address, query)))
        if name in ("documents, newest first", "carried", "search: everything has it"):
            after = http.get(address, params=query).json()["next"]
            result.append((f"{name}: next page", _median(http, after, {})))
    return result


def _median(http: httpx.Client, address: str, query: dict[str, Any]) -> float:
    times = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        http.get(address, params=query or None).raise_for_status()
        times.append(time.perf_counter() - started)
    return statistics.median(times)


if __name__ == "__main__":
    main()
