"""Signed calls from a shop: 5,000 of them as fast as they come, and how long until the last one was looked at.

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
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlsplit

import httpx
import psycopg
from benchmarks.api import Answers
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell
from standardwebhooks.webhooks import Webhook

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

CALLS, ORDERS, SENDERS = 5_000, 500, 50
WORLD = "incoming"


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
    sent = [_signed(secret, numbers[place % len(numbers)]) for place in range(number)]
    floor, took_floor = _send(stack, [("GET", "/alive", {}, b"")] * number)
    print(f"  {'/alive, the floor':<24}{floor.told(took_floor)}")
    began = time.perf_counter()
    found, took = _send(stack, [("POST", address, headers, body) for headers, body in sent])
    ratio = took / took_floor
    print(f"  {'signed calls, stored':<24}{found.told(took)}   {ratio:.1f} times the floor")
    while _waiting(db):
        time.sleep(0.1)
    looked_at = time.perf_counter() - began
    kept, crossings = _counts(db)
    print(f"  all looked at {looked_at:.1f} s after the first; {kept} calls kept, {crossings} orders found")
    if kept != number or crossings != len(numbers):
        raise SystemExit(f"expected {number} calls and {len(numbers)} orders")


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


def _send(stack: Stack, requests: list[tuple[str, str, dict[str, str], bytes]]) -> tuple[Answers, float]:
    """Send all of them, each sender the next as soon as the last is answered."""
    answers, waiting = Answers(), iter(requests)

    async def sender(client: httpx.AsyncClient) -> None:
        for method, path, headers, body in waiting:
            began = time.perf_counter()
            try:
                answer = await client.request(method, path, headers=headers, content=body or None)
                failure = "" if answer.status_code in (200, 204) else f"{answer.status_code} {answer.text[:200]}"
            except httpx.HTTPError as error:
                failure = repr(error)
            if not failure:
                answers.seconds.append(time.perf_counter() - began)
            else:
                answers.failed += 1
                print(f"  {method} {path} failed: {failure}")

    async def everybody() -> None:
        limits = httpx.Limits(max_connections=SENDERS, max_keepalive_connections=SENDERS)
        async with httpx.AsyncClient(base_url=stack.address, limits=limits, timeout=60, trust_env=False) as client:
            await asyncio.gather(*(sender(client) for _ in range(SENDERS)))

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
