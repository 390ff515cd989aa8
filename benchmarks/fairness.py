"""Two hundred bridges of twenty workspaces at once, one of them with a backlog: does anybody wait for more than a turn?

    ./inkwell bench fairness [WORKSPACES] [BRIDGES EACH] [BACKLOG]

Every bridge has five new orders, but for the first, which has the backlog and is started before all others. Were the
workers shared out evenly, the backlog would have carried by the time the others are through no more than what one
workspace of the others has: that moment is the fair one, and the ratio to it is printed.
"""

from __future__ import annotations

import sys
import time
from itertools import islice
from statistics import quantiles
from typing import Any

import psycopg
from benchmarks.carry import INTO_ERP, new_world, plain_orders
from benchmarks.installation import OWNER, PASSWORD, installation, tell

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

WORKSPACES, BRIDGES, BACKLOG, FEW = 20, 10, 1_000, 5


def main() -> None:
    """Lay the bridges, fill the shops, start all, and look who ended when."""
    workspaces, bridges, backlog = (
        int(given) if given else default
        for given, default in zip(
            [*sys.argv[1:4], "", "", ""], (WORKSPACES, BRIDGES, BACKLOG), strict=False
        )
    )  # fmt: skip
    with installation(workers=2) as (stack, db):
        _measure(stack, db, workspaces, bridges, backlog)


def _measure(stack: Stack, db: psycopg.Connection[Any], workspaces: int, bridges: int, backlog: int) -> None:
    client = Client(stack.address, token=demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER))
    laid: list[tuple[WorkspaceCalls, str]] = []
    numbers = plain_orders(INTO_ERP, backlog + workspaces * bridges * FEW, again=False)
    for place in range(workspaces):
        world = f"client-{place}"
        calls = new_world(stack, client, world, INTO_ERP)
        for number in range(bridges):
            of_bridge = backlog if place == number == 0 else FEW
            laid.append((calls, _bridge(stack, calls, world, number, list(islice(numbers, of_bridge)))))
    print(f"{len(laid)} bridges of {workspaces} workspaces: {backlog} orders over one, {FEW} over each other")
    began = time.perf_counter()
    runs = [(calls, calls.bridge(bridge).run().id) for calls, bridge in laid]
    started = time.perf_counter() - began
    while db.execute("SELECT count(*) FROM carriage_run WHERE ended_at IS NULL").fetchone() != (0,):
        time.sleep(0.5)
    # By the service's own clock, which the demo's month has set.
    rows = db.execute(
        "SELECT id, extract(epoch FROM ended_at - min(started_at) OVER ())::float FROM carriage_run"
    ).fetchall()
    ended: dict[int, float] = dict(rows)
    carried = db.execute("SELECT count(*) FROM carriage_crossing WHERE state = 'carried'").fetchone()
    (_, first), *others = runs
    waited = sorted(ended[run] for _, run in others)
    whole = max(ended.values())
    if carried != (backlog + FEW * len(others),):
        raise SystemExit(f"expected {backlog + FEW * len(others)} orders carried, found {carried}")
    pace = carried[0] / whole
    fair = (FEW * len(others) + FEW * bridges) / pace
    cuts = quantiles(waited, n=20)
    print(f"  started within {started:.1f} s; {pace:.1f} orders a second in all, by two workers")
    print(f"  the bridges with {FEW}: half ended after {cuts[9]:.1f} s, 95 of 100 after {cuts[18]:.1f} s, "
          f"the last after {waited[-1]:.1f} s, {waited[-1] / fair:.2f} times the fair moment")  # fmt: skip
    print(f"  the backlog ended after {ended[first]:.1f} s")


def _bridge(stack: Stack, calls: WorkspaceCalls, world: str, number: int, orders: list[dict[str, Any]]) -> str:
    """A bridge from a shop of its own into the books of the workspace, and its orders; answers its name."""
    shop, slug = f"shop-{number}", INTO_ERP.bridge
    place = world if number == 0 else f"{world}-{number}"
    if number:
        slug = f"bridge-{number}"
        tell(stack, place, "web-shop", {"shop": facts()["web_shop"]}, reset=True)
        kind, names = demo_client.CONNECTIONS["web_shop"]
        company = calls.bridge(INTO_ERP.bridge).read().company
        calls.create_connection(
            slug=shop, name=shop, kind=kind, company=company,
            address=demo_client.address_of(stack, "web_shop", world=place),
            credentials={name: facts()["web_shop"][name] for name in names},
        )  # fmt: skip
        given = {name: one for name, one in facts()["bridge"].items() if name not in {"slug", "name"}}
        calls.create_bridge(**given, slug=slug, name=slug, source=shop, books="uk-books", company=company)
        laid = calls.bridge(slug)
        laid.publish_rulebook(laid.write_rulebook(rulebook_text(INTO_ERP.bridge)).number)
        laid.switch_lane("orders", on=True)
    for start in range(0, len(orders), 200):
        tell(stack, place, "web-shop", {"orders": orders[start : start + 200]})
    return slug


if __name__ == "__main__":
    main()
