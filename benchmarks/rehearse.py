"""Some 10,000 past orders rehearsed, beside the bare planner on as many of the same: ``./inkwell bench rehearse``.

    ./inkwell bench rehearse [ORDERS]

A few hundred orders are really carried, the others are copies of them in the tables. The floor reads each order's JSON
and plans it once, in a process of its own and with nothing else. A rehearsal reads them from the database with who
bought, plans what a change can reach twice, compares, sums up, and goes over what the orders hold besides.
"""

from __future__ import annotations

import json
import sys
import time
from datetime import date, timedelta
from typing import Any

import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, most_memory, tell
from benchmarks.lists import CARRIED, fill
from benchmarks.plan import setting

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import plan_order
from inkwell_bridge.core.rulebook import read
from inkwell_bridge.core.rulebook.patching import Operation, patched
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

ORDERS = 10_000
# Copies are spread over three years; a rehearsal goes over four hundred days of them at most.
DAYS, SPREAD_DAYS = 400, 1095
WORLD = "lists"
AIM = 1.5
CHANGES = {
    "nothing": [],
    "an account for one country": [
        {"op": "replace", "path": "/accounts/sales", "value": {"default": "4000", "by_country": {"US": "4010"}}}
    ],
    "what becomes of the penny": [{"op": "replace", "path": "/penny/goes_to", "value": "hold"}],
}


def main() -> None:
    """Carry a few hundred, copy them, rehearse."""
    orders = int(sys.argv[1]) if len(sys.argv) > 1 else ORDERS
    with installation() as (stack, db):
        _measure(stack, db, orders)


def _measure(stack: Stack, db: psycopg.Connection[Any], orders: int) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    calls = new_world(stack, Client(stack.address, token=token), WORLD, INTO_ERP)
    tell(stack, WORLD, "web-shop", {"orders": list(plain_orders(INTO_ERP, CARRIED, again=False))})
    run = calls.bridge(INTO_ERP.bridge).run()
    while calls.run(run.id).under_way:
        time.sleep(0.5)
    fill(db, orders * SPREAD_DAYS // DAYS)
    text = calls.bridge(INTO_ERP.bridge).rulebook(1).text
    floor = _floor(db, text)
    print(f"the bare planner, reading included: {floor:,.0f} orders a second")
    for name, operations in CHANGES.items():
        changed = patched(text, [Operation(**one) for one in operations]) if operations else text
        number, seconds = _rehearsed(calls, changed)
        pace = number / seconds
        print(f"{name:<28}{number:>8,} in {seconds:5.1f} s, {pace:7,.0f} a second, {floor / pace:5.2f} times the floor "
              f"(aim: {AIM:g})")  # fmt: skip
    workers = [part.process.pid for part in stack.supervisor.parts if part.name.startswith("worker") and part.process]
    print(f"memory of the worker: {max(map(most_memory, workers))} MiB at most")


def _floor(db: psycopg.Connection[Any], text: str) -> float:
    """Orders a second."""
    rows = db.execute("SELECT content FROM carriage_snapshot WHERE kind = 'orders' ORDER BY id LIMIT 300").fetchall()
    written = [json.dumps(content) for (content,) in rows]
    context = setting().model_copy(update={"rulebook": read(text)[0].for_orders})
    began, done = time.perf_counter(), 0
    while time.perf_counter() - began < 5:
        for one in written:
            plan_order(Order.read(one), context)
        done += len(written)
    return done / (time.perf_counter() - began)


def _rehearsed(calls: WorkspaceCalls, text: str) -> tuple[int, float]:
    bridge = calls.bridge(INTO_ERP.bridge)
    draft = bridge.write_rulebook(text)
    last = date(2026, 10, 31)
    began = time.perf_counter()
    asked = bridge.rehearse(rulebook=draft.number, since=1, first=last - timedelta(days=DAYS), last=last)
    while (found := calls.rehearsal(asked.id)).under_way:
        time.sleep(0.1)
    if found.state != "ended":
        raise SystemExit(f"the rehearsal {found.state}: {found.trouble}")
    return found.done, time.perf_counter() - began


if __name__ == "__main__":
    main()
