"""Load 50,000 items and 200,000 customers: how fast, beside only fetching the same pages, and how much memory.

    ./inkwell bench loading

Needs what the tests need. Prints the ratio to its floor, the worker's memory, and how often the progress moved.
"""

from __future__ import annotations

import time
from pathlib import Path

from benchmarks.installation import OWNER, PASSWORD, installation, tell

from inkwell_bridge.client import Client
from inkwell_bridge.client.connection import ConnectionCalls
from inkwell_bridge.core.books import Directory
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.contract import kinds
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.stack import Stack

ITEMS, CUSTOMERS, BATCH = 50_000, 200_000, 5_000
WORLD = "bench"
T = "2026-10-05T13:20:00+01:00"


def main() -> None:
    """Fill the stand-ins, load, and tell."""
    with installation() as (stack, _):
        _measure(stack)


def _measure(stack: Stack) -> None:
    demo_client.fill_standins(stack.standin, world=WORLD)
    _fill(stack)
    token = demo_client.open_workspace(stack, PASSWORD, workspace=WORLD, email=OWNER)
    calls = Client(stack.address, token=token).workspace(WORLD)
    demo_client.set_up(stack, calls, world=WORLD)
    small, _ = _load(stack, calls.connection("uk-books"), "contacts")
    print(f"the worker before: {small} MiB")
    for connection, part, number in (("uk-books", "items", ITEMS), ("web-shop", "customers", CUSTOMERS)):
        floor = _only_fetched(stack, connection)
        started = time.perf_counter()
        memory, moves = _load(stack, calls.connection(connection), part)
        took = time.perf_counter() - started
        print(
            f"{part}: {number:,} in {took:.1f} s, {number / took:,.0f} a second, {took / floor:.1f} times as long as "
            f"fetching them alone ({floor:.1f} s); the worker at most {memory} MiB; the progress moved {moves} times"
        )


def _fill(stack: Stack) -> None:
    for start in range(0, CUSTOMERS, BATCH):
        some = range(start + 1000, start + 1000 + BATCH)
        customers = [
            {"id": one, "reference": f"C-{one}", "last_change": T, "email": f"buyer{one}@bench.example",
             "first_name": f"First{one}", "last_name": f"Last{one}"}
            for one in some
        ]  # fmt: skip
        tell(stack, WORLD, "web-shop", {"customers": customers})
    for start in range(0, ITEMS, BATCH):
        items = [{"code": f"ITEM-{one}", "name": f"Item number {one}"} for one in range(start, start + BATCH)]
        tell(stack, WORLD, "erp", {"articles": items})


def _only_fetched(stack: Stack, connection: str) -> float:
    """The floor: the same pages, read and let go."""
    end, kind = ("books", "erp") if connection == "uk-books" else ("web_shop", "web-shop")
    credentials = {name: facts()[end][name] for name in demo_client.CONNECTIONS[end][1]}
    address = demo_client.address_of(stack, end, world=WORLD)
    opened = kinds()[kind].open(Opening(address=address, credentials=credentials, guard=places.LOOPBACK))
    started, page = time.perf_counter(), None
    while True:
        found = (
            opened.directory(Directory.ITEMS, page=page)
            if kind == "erp"
            else opened.documents(SourceKind.CUSTOMERS, changed_since=None, page=page)
        )
        page = found.next
        if page is None:
            return time.perf_counter() - started


def _load(stack: Stack, connection: ConnectionCalls, part: str) -> tuple[int, int]:
    """The most memory the worker took, in MiB, and how often ``read`` was seen to move."""
    connection.load(part)
    most, moves, before = 0, 0, -1
    while True:
        loading = next(one for one in connection.loadings() if one.part == part)
        most = max(most, _memory(stack))
        moves += loading.read != before
        before = loading.read
        if not loading.under_way:
            if loading.state != "ended":
                raise RuntimeError(loading.trouble)
            return most, moves
        time.sleep(0.5)


def _memory(stack: Stack) -> int:
    """The worker's resident memory, in MiB."""
    worker = next(part.process for part in stack.supervisor.parts if part.name == "worker-1")
    lines = Path(f"/proc/{worker.pid if worker else 'self'}/status").read_text("utf-8").splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmRSS")) // 1024


if __name__ == "__main__":
    main()
