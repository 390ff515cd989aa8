"""The service under many people: 50 and 200 of them on lists, Today, one order and a month's tie-out.

    ./inkwell bench api [DOCUMENTS] [SECONDS]

The service runs as the start command runs it, with as many processes as cores. Each person keeps one connection and
asks again as soon as the answer is there. Beside it stands the floor: as many people on ``/alive``, which does nothing.
At last one call that takes long is made over and over while fifty people ask for ``/alive``. Whoever asks runs on the
same cores, and takes a part of what is measured.
"""

from __future__ import annotations

import asyncio
import os
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell
from benchmarks.lists import CARRIED, fill
from benchmarks.plain_http import Answers, Asker, askers

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

DOCUMENTS, SECONDS = 10_000, 30.0
WORLD = "lists"
PEOPLE = (50, 200)


def main() -> None:
    """Carry some orders, copy them, and let people at them."""
    documents = int(sys.argv[1]) if len(sys.argv) > 1 else DOCUMENTS
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else SECONDS
    with installation(processes=os.cpu_count() or 1) as (stack, db):
        _measure(stack, db, documents, seconds)


def _measure(stack: Stack, db: psycopg.Connection[Any], documents: int, seconds: float) -> None:
    token = demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)
    calls = new_world(stack, Client(stack.address, token=token), WORLD, INTO_ERP)
    tell(stack, WORLD, "web-shop", {"orders": list(plain_orders(INTO_ERP, CARRIED, again=False))})
    run = calls.bridge(INTO_ERP.bridge).run()
    while calls.run(run.id).under_way:
        time.sleep(0.5)
    fill(db, documents)
    one = next(iter(calls.crossings())).id
    workspace = f"/api/v1/workspaces/{WORLD}"
    paths = {
        "the list": [f"{workspace}/crossings"],
        "Today": [f"{workspace}/today"],
        "one order": [f"{workspace}/crossings/{one}"],
        "a month's tie-out": [f"{workspace}/tie-out?first=2026-10-01&last=2026-10-31"],
    }
    paths["all of these"] = [path for some in paths.values() for path in some]
    for people in PEOPLE:
        print(f"{people} people, {seconds:g} s each")
        floor = _asked(stack, token, ["/alive"], people, seconds)
        for name, some in paths.items():
            found = _asked(stack, token, some, people, seconds)
            ratio = len(found.seconds) / max(len(floor.seconds), 1)
            print(f"  {name:<20}{found.told(seconds)}   {100 * ratio:.0f} % of the floor")
        print(f"  {'/alive, the floor':<20}{floor.told(seconds)}")
    print("one long call after another (the table of links), and 50 people on /alive meanwhile")
    long = f"{workspace}/bridges/{INTO_ERP.bridge}/links/customers/table?form=xlsx"
    print(f"  {'/alive':<20}{_beside(stack, token, long, seconds).told(seconds)}")
    print(f"memory of the service: {_memory(stack)} MiB in {os.cpu_count()} processes and the one over them")


def _asked(stack: Stack, token: str, paths: Sequence[str], people: int, seconds: float) -> Answers:
    answers = Answers()
    asyncio.run(_all(stack, token, paths, people, seconds, answers))
    return answers


async def _all(stack: Stack, token: str, paths: Sequence[str], people: int, seconds: float, answers: Answers) -> None:
    ends_at = time.perf_counter() + seconds

    async def person(asker: Asker, number: int) -> None:
        turn = number
        while time.perf_counter() < ends_at:
            path, turn = paths[turn % len(paths)], turn + 1
            await asker.ask(asker.request("GET", path, {"Authorization": f"Bearer {token}"}))

    async with askers(stack.address, people, answers) as all_of_them:
        await asyncio.gather(*(person(asker, number) for number, asker in enumerate(all_of_them)))


def _beside(stack: Stack, token: str, long: str, seconds: float) -> Answers:
    answers, heavy = Answers(), Answers()

    async def both() -> None:
        await asyncio.gather(
            _all(stack, token, ["/alive"], PEOPLE[0], seconds, answers),
            _all(stack, token, [long], 2, seconds, heavy),
        )

    asyncio.run(both())
    return answers


def _memory(stack: Stack) -> int:
    """What all processes of the service take together, in MiB, each page that they share counted once for each."""
    found = 0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            command = (folder / "cmdline").read_bytes()
            if b"gunicorn" in command and str(stack.service_port).encode() in command:
                status = (folder / "status").read_text("utf-8")
                found += next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
        except (OSError, StopIteration):
            continue
    return found // 1024


if __name__ == "__main__":
    main()
