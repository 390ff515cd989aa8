"""Carry plain orders into the ERP and the ledger: how fast, beside only sending the same finished documents.

    ./inkwell bench carry [ORDERS]

The floor is a bare asynchronous loop that makes the calls without which nothing would stand in the books (the contact,
each document, its posting) and inserts one row an order. It is measured in the same run, on the same documents. Prints
documents a second, calls and SQL statements an order, the workers' CPU and memory.
"""

from __future__ import annotations

import asyncio
import itertools
import os
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import psycopg
from benchmarks.installation import OWNER, PASSWORD, installation, most_memory, tell

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.core.books import Role
from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.october import october
from inkwell_bridge.ends.erp.families import FAMILIES
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

ORDERS = 400
SLOW_SECONDS = 0.15
AT_ONCE = 16
WARM_UP = 48
CALLS = [
    f"{family}.{call}"
    for family in ("invoices", "receipts", "payments", "contacts")
    for call in ("list", "search", "read", "create", "amend", "replace", "post", "release")
]
PRELOADED = ("shared_preload_libraries = 'pg_stat_statements'", "pg_stat_statements.max = 5000")


def main() -> None:
    """One worker and two, at the books' own pace and with 150 ms on each call."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else ORDERS
    with installation(workers=0, settings=PRELOADED) as (stack, db):
        db.execute("CREATE EXTENSION pg_stat_statements")
        _measure(stack, number)


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """A bridge of the demo that is measured, and the stand-in of its books."""

    bridge: str
    shop: str
    books: str
    first_order: str


INTO_ERP = Route(bridge="web-shop-to-uk-books", shop="", books="erp", first_order="MW-10003")
INTO_LEDGER = Route(bridge="irish-shop-to-ledger", shop="-ireland", books="ledger", first_order="")


def _measure(stack: Stack, number: int) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    client = Client(stack.address, token=token)
    workers = [stack.worker("worker-1")]
    workers[0].start()
    try:
        # A worker that has just started reads its program first; it is started once a month, and no order pays for it.
        _round(stack, client, "warm-up", WARM_UP, workers)
        sent, ours = _round(stack, client, "one-worker", number, workers)
        floor = asyncio.run(_floor(stack, sent))
        print(f"floor: {floor:.1f} orders a second, sent as they are and kept in one row each")
        print(f"one worker: {ours:.1f} orders a second, {100 * ours / floor:.0f} % of the floor (aim: 40)")
        _round(stack, client, "one-worker", number, workers, known=True)
        _round(stack, client, "ledger", number, workers, route=INTO_LEDGER)
        _, slow = _round(stack, client, "slow", number, workers, latency=SLOW_SECONDS)
        print(f"with {1000 * SLOW_SECONDS:.0f} ms on each call: {slow:.1f} orders a second on one worker (aim: 20)")
        workers.append(stack.worker("worker-2"))
        workers[1].start()
        _round(stack, client, "warm-up-both", 4 * WARM_UP, workers)
        _, two = _round(stack, client, "two-workers", number, workers)
        print(f"two workers: {two:.1f} orders a second, {two / ours:.2f} times one (aim: 1.7)")
    finally:
        for worker in workers:
            if worker.process:
                worker.process.kill()


def _round(
    stack: Stack, client: Client, world: str, number: int, workers: list[Any], *, latency: float = 0.0,
    route: Route = INTO_ERP, known: bool = False,
) -> tuple[list[list[dict[str, Any]]], float]:  # fmt: skip
    """Carry so many orders, each of a new buyer or of one whom a round before made; answers their documents, and orders
    a second."""
    calls = client.workspace(world) if known else new_world(stack, client, world, route)
    orders = list(plain_orders(route, number, again=known))
    for start in range(0, number, 200):
        tell(stack, world + route.shop, "web-shop", {"orders": orders[start : start + 200]})
    rules = [{"call": call, "kind": "latency", "seconds": latency, "times": 10**9} for call in CALLS]
    httpx.put(f"{stack.standin(route.books)}/{world}/control/misbehaviour", json={"rules": rules}).raise_for_status()
    with psycopg.connect(stack.environment["DATABASE_URL"], autocommit=True) as db:
        statements, cpu = _statements(db), _cpu(workers)
        started = time.perf_counter()
        run = calls.bridge(route.bridge).run()
        while (found := calls.run(run.id)).under_way:
            time.sleep(0.5)
        took = time.perf_counter() - started
        if found.counts.carried != number:
            raise RuntimeError(f"{found.counts} {found.trouble}")
        made = httpx.get(f"{stack.standin(route.books)}/{world}/control/misbehaviour").json()["rules"]
        struck = {rule["call"]: rule["struck"] for rule in made if rule["struck"]}
        often = ", ".join(f"{call} {count / number:.1f}" for call, count in struck.items() if count >= number / 5)
        title = f"{world}, known buyers" if known else world
        print(f"[{title}] {number} orders in {took:.1f} s, {number / took:.1f} a second; "
              f"{sum(struck.values()) / number:.1f} calls an order ({often})")  # fmt: skip
        print(
            f"[{title}] {(_statements(db) - statements) / number:.1f} SQL statements an order, "
            f"{1000 * (_cpu(workers) - cpu) / number:.0f} ms of worker CPU an order, "
            f"at most {max(most_memory(worker.process.pid) for worker in workers)} MiB a worker"
        )
        sizes = db.execute(
            "SELECT sum(pg_total_relation_size(relid)), sum(pg_total_relation_size(relid)) FILTER "
            "(WHERE relname = 'carriage_exchange') FROM pg_stat_user_tables WHERE relname LIKE 'carriage_%%'"
        ).fetchone()
        rows = db.execute("SELECT count(*) FROM carriage_crossing").fetchone()
    if sizes and rows:
        whole, of_calls = (int(size) / rows[0] / 1024 for size in sizes)
        print(f"[{title}] {whole - of_calls:.1f} kB an order in the database with its indexes, {of_calls:.1f} kB of "
              "records of calls besides")  # fmt: skip
    rows_of = itertools.islice(calls.crossings(state=["carried"], limit=200), number)
    documents = [
        [document.settled or document.planned or {} for document in calls.crossing(row.id).documents] for row in rows_of
    ]
    return documents, number / took


def new_world(stack: Stack, client: Client, world: str, route: Route) -> WorkspaceCalls:
    demo_client.fill_standins(stack.standin, world=world)
    client.open_workspace(slug=world, name=world)
    calls = client.workspace(world)
    tell(stack, world, "web-shop", {"shop": facts()["web_shop"]}, reset=True)
    demo_client.set_up(stack, calls, world=world, rules=rulebook_text(INTO_ERP.bridge))
    if route is INTO_LEDGER:
        tell(stack, world + route.shop, "web-shop", {"shop": facts()["irish_shop"]}, reset=True)
        demo_client.set_up_others(stack, calls, world=world)
    return calls


def plain_orders(route: Route, number: int, *, again: bool) -> Iterator[dict[str, Any]]:
    """Plain orders, each of another buyer, paid by card."""
    orders = october() if route is INTO_ERP else month.irish_shop()["orders"]
    first = next(order for order in orders if order["reference"] == route.first_order or not route.first_order)
    number_from = number if again else 0
    for one in range(number_from, number_from + number):
        order = {**first, "id": 900_000 + one, "reference": f"MW-B{one:06d}"}
        buyer = one - number_from
        order["shopper"] = {**first["shopper"], "account": None, "email": f"buyer{buyer}@bench.example"}
        order["received"] = [{**money, "transaction": f"wg_bench_{one}"} for money in first["received"]]
        yield order


async def _floor(stack: Stack, documents: list[list[dict[str, Any]]]) -> float:
    """Orders a second of a bare loop: the contact, each document and its posting, and one row."""
    demo_client.fill_standins(stack.standin, world="floor")
    credentials = {name: facts()["books"][name] for name in demo_client.CONNECTIONS["books"][1]}
    limits = httpx.Limits(max_connections=AT_ONCE)
    db = await psycopg.AsyncConnection.connect(stack.environment["DATABASE_URL"], autocommit=True)
    async with httpx.AsyncClient(timeout=30, limits=limits, trust_env=False) as http, db:
        await db.execute("CREATE TABLE bench_floor (id bigserial PRIMARY KEY, content jsonb NOT NULL)")
        rpc = _Rpc(http, f"{stack.erp}/floor/rpc")
        rpc.session = (await rpc.call("session.open", **credentials))["session"]
        gate, writing = asyncio.Semaphore(AT_ONCE), asyncio.Lock()

        async def one(number: int, of_order: list[dict[str, Any]]) -> None:
            async with gate:
                contact = await rpc.call("contacts.create", email=f"buyer{number}@bench.example", name="A buyer")
                for said in of_order:
                    role = Role(said["role"])
                    family, words = FAMILIES[role], FAMILIES[role].to_words(role.shape.read(said))
                    made = await rpc.call(f"{family.name}.create", **words, contact=contact["id"])
                    await rpc.call(f"{family.name}.post", id=made["id"])
                async with writing:
                    content = psycopg.types.json.Jsonb(of_order)
                    await db.execute("INSERT INTO bench_floor (content) VALUES (%s)", [content])

        started = time.perf_counter()
        await asyncio.gather(*(one(number, of_order) for number, of_order in enumerate(documents)))
        return len(documents) / (time.perf_counter() - started)


class _Rpc:
    """The ERP's protocol, and nothing besides."""

    def __init__(self, http: httpx.AsyncClient, address: str) -> None:
        self._http, self._address, self.session = http, address, ""
        self._numbers = itertools.count(1)

    async def call(self, method: str, **params: Any) -> Any:
        headers = {"Authorization": f"Session {self.session}"} if self.session else {}
        body = {"jsonrpc": "2.0", "id": next(self._numbers), "method": method, "params": params}
        answer = (await self._http.post(self._address, json=body, headers=headers)).json()
        if "result" not in answer:
            raise RuntimeError(f"{method}: {answer}")
        return answer["result"]


def _statements(db: psycopg.Connection[Any]) -> int:
    row = db.execute(
        "SELECT sum(calls) FROM pg_stat_statements WHERE query NOT LIKE '%%procrastinate_fetch%%' "
        # PostgreSQL's own looks at foreign keys are no statements of ours.
        "AND query NOT LIKE '%%FOR KEY SHARE OF x'"
    ).fetchone()
    return int(row[0]) if row and row[0] else 0


def _cpu(workers: list[Any]) -> float:
    ticks = 0
    for worker in workers:
        fields = Path(f"/proc/{worker.process.pid}/stat").read_text("utf-8").rsplit(")", 1)[1].split()
        ticks += int(fields[11]) + int(fields[12])
    return ticks / os.sysconf("SC_CLK_TCK")


if __name__ == "__main__":
    main()
