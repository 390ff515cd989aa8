"""Signed calls from a shop: at a steady pace, then 5,000 of them as fast as they come, and how long until the last one
was looked at.

    ./inkwell bench incoming [CALLS]

The service runs as the start command runs it, with as many processes as cores; fifty senders keep a connection each.
Beside it stands the floor: as many requests to ``/alive``, which does nothing. The senders run on the same cores.
"""

from __future__ import annotations

import asyncio
import json
import os
import sys
import time
import uuid
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlsplit

import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell
from benchmarks.plain_http import Answers, Asker, askers
from standardwebhooks.webhooks import Webhook

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

CALLS, ORDERS, SENDERS = 5_000, 500, 50
STEADY, STEADY_A_SECOND = 500, 25
WORLD = "incoming"
Request = tuple[str, str, dict[str, str], bytes]


def main() -> None:
    """Place orders, and call about each of them ten times."""
    calls = int(sys.argv[1]) if len(sys.argv) > 1 else CALLS
    with installation(processes=os.cpu_count() or 1) as (stack, db):
        _measure(stack, db, calls)


def _measure(stack: Stack, db: psycopg.Connection[Any], number: int) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    calls = new_world(stack, Client(stack.address, token=token), WORLD, INTO_ERP)
    orders = list(plain_orders(INTO_ERP, min(ORDERS, number), again=False))
    tell(stack, WORLD, "web-shop", {"orders": orders})
    door = calls.connection("web-shop")
    secret, address = door.new_call_secret(), urlsplit(door.call_address().address).path
    numbers = [str(order["reference"]) for order in orders]

    def signed(many: int) -> list[Request]:
        made = (_signed(secret, numbers[place % len(numbers)]) for place in range(many))
        return [("POST", address, headers, body) for headers, body in made]

    alive: Request = ("GET", "/alive", {}, b"")
    print(f"{STEADY_A_SECOND} a second, {STEADY} of them")
    for name, requests in (("/alive", [alive] * STEADY), ("signed calls, stored", signed(STEADY))):
        found, took = _one_by_one(stack, requests)
        print(f"  {name:<24}{found.told(took)}")
    print(f"as fast as they come, {number} of them")
    floor, took_floor = _all_at_once(stack, [alive] * number)
    print(f"  {'/alive, the floor':<24}{floor.told(took_floor)}")
    flood, began = signed(number), time.perf_counter()
    found, took = _all_at_once(stack, flood)
    print(f"  {'signed calls, stored':<24}{found.told(took)}   {took / took_floor:.1f} times the floor")
    while _waiting(db):
        time.sleep(0.1)
    looked_at = time.perf_counter() - began
    kept, crossings = _counts(db)
    print(f"  all looked at {looked_at:.1f} s after the first; {kept} calls kept, {crossings} orders found")
    if kept != number + STEADY or crossings != len(numbers):
        raise SystemExit(f"expected {number + STEADY} calls and {len(numbers)} orders")


def _signed(secret: str, number: str) -> tuple[dict[str, str], bytes]:
    now, identity = datetime.now(UTC), uuid.uuid4().hex
    said = {"specversion": "1.0", "id": identity, "type": "order.changed", "subject": number, "time": now.isoformat()}
    body = json.dumps(said)
    headers = {
        "content-type": "application/cloudevents+json",
        "webhook-id": identity,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=identity, timestamp=now, data=body),
    }
    return headers, body.encode()


def _all_at_once(stack: Stack, requests: Sequence[Request]) -> tuple[Answers, float]:
    """Send all of them, each sender the next as soon as the last is answered."""
    answers, waiting = Answers(), iter(requests)

    async def sender(asker: Asker) -> None:
        for request in waiting:
            await asker.ask(asker.request(*request))

    async def everybody() -> None:
        async with askers(stack.address, SENDERS, answers) as senders:
            await asyncio.gather(*(sender(one) for one in senders))

    began = time.perf_counter()
    asyncio.run(everybody())
    return answers, time.perf_counter() - began


def _one_by_one(stack: Stack, requests: Sequence[Request]) -> tuple[Answers, float]:
    """Send them at a steady pace, whether the ones before are answered or not."""
    answers = Answers()

    async def sender(asker: Asker, requests: Sequence[Request], begins_at: float) -> None:
        for place, request in enumerate(requests):
            await asyncio.sleep(max(0.0, begins_at + place * SENDERS / STEADY_A_SECOND - time.perf_counter()))
            await asker.ask(asker.request(*request))

    async def everybody() -> None:
        now = time.perf_counter()
        async with askers(stack.address, SENDERS, answers) as senders:
            await asyncio.gather(
                *(sender(one, requests[number::SENDERS], now + number / STEADY_A_SECOND)
                  for number, one in enumerate(senders))
            )  # fmt: skip

    began = time.perf_counter()
    asyncio.run(everybody())
    return answers, time.perf_counter() - began


def _waiting(db: psycopg.Connection[Any]) -> int:
    return int(db.execute("SELECT count(*) FROM incoming_incomingcall WHERE state = 'waiting'").fetchone()[0])  # type: ignore[index]


def _counts(db: psycopg.Connection[Any]) -> tuple[int, int]:
    kept = db.execute("SELECT count(*) FROM incoming_incomingcall").fetchone()
    crossings = db.execute("SELECT count(*) FROM carriage_crossing").fetchone()
    assert kept is not None
    assert crossings is not None
    return int(kept[0]), int(crossings[0])


if __name__ == "__main__":
    main()
