"""A kind of document is one module: a made-up one is carried end to end, and no other file knows of it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from datetime import date
from decimal import Decimal
from pathlib import Path

import psycopg
import pytest

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.service.test_links import product
from tests.support.world import BRIDGE, FAST, World, first_owner, new_world, running

KIND = "shelf values"
# Prices of the two that have one: 24.00 and 5.50.
WORTH = Decimal("29.50")


@pytest.fixture(scope="module")
def shelves(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[World]:
    """A client of a service that was told of one kind more."""
    stack = Stack(
        database_url=new_database("kinds"),
        home=tmp_path_factory.mktemp("kinds"),
        console=places.console(),
        extra={**FAST, "INKWELL_KINDS": "tests.support.shelf_values", "PYTHONPATH": str(places.root())},
    )
    with running(stack):
        world = new_world(stack, first_owner(stack), rules=rulebook_text(BRIDGE))
        priced = {"31": "24.00", "32": "5.50", "33": "0.00"}
        sold = [product(int(number), f"SHELF-{number}", "Bowl", price=price) for number, price in priced.items()]
        world.put("web-shop", products=sold)
        calls = world.calls.bridge(BRIDGE)
        calls.switch_lane("orders", on=False)
        calls.switch_lane(KIND, on=True)
        world.run()
        yield world


def command(world: World, *words: str) -> str:
    """What the command line answers."""
    done = subprocess.run(
        [str(Path(sys.executable).parent / "inkwell"), *words],
        env={**os.environ, "INKWELL_ADDRESS": world.stack.address, "INKWELL_TOKEN": world.token,
             "INKWELL_WORKSPACE": world.slug},
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_it_has_a_lane(shelves: World) -> None:
    """Beside those that came with the program, and on."""
    lanes = {lane.kind: lane.on for lane in shelves.calls.bridge(BRIDGE).read().lanes}
    theirs = ("orders", "refunds", "customers", "receipts", "requests", "request_payments", "charges", "payouts")
    assert lanes == {**dict.fromkeys(theirs, False), KIND: True}


def test_its_documents_are_posted_and_proved(shelves: World) -> None:
    """Every product with a price has a journal, read back and compared; the third is left out by the kind's rule."""
    carried = list(shelves.calls.crossings(state=["carried"]))
    assert {(one.kind, one.gross) for one in carried} == {(KIND, Decimal("24.00")), (KIND, Decimal("5.50"))}
    (other,) = shelves.calls.crossings(state=["left out"])
    assert other.left_out_by == "shelf values: no price"
    journals = {one["reference"]: one for one in shelves.books()["journal"]}
    for one in carried:
        (document,) = one.documents
        assert (document.role, document.state, document.order_number) == ("journal", "proved", one.number)
        first, second = journals[document.external_reference]["lines"]
        assert Decimal(first["debit"]) == one.gross == Decimal(second["credit"])


def test_its_history_and_reasons_are_shown(shelves: World) -> None:
    """What happened to it, step by step, and why the amount stands there."""
    one = next(one for one in shelves.calls.crossings(state=["carried"]) if one.kind == KIND)
    spread = shelves.calls.crossing(one.id)
    assert [event.kind for event in spread.history] == ["staged", "posted", "proved", "carried"]
    assert [reason["rule"] for reason in spread.reasons] == ["shelf values"]


def test_its_figures_count_on_both_sides(shelves: World) -> None:
    """A row of the source, and those of the books; they are no sale, and leave the tie-out alone."""
    with psycopg.connect(shelves.stack.environment["DATABASE_URL"]) as db:
        rows = db.execute(
            "SELECT side, grain, sum(count), sum(net) FROM carriage_figure GROUP BY 1, 2 ORDER BY 1, 2"
        ).fetchall()
    found = {(side, grain): (count, net) for side, grain, count, net in rows}
    assert found["source", "document"] == (3, WORTH)
    # Two lines a journal, the one of which takes off what the other adds.
    assert found["coded", "line"] == found["books", "line"] == (4, 0)
    assert list(shelves.calls.tie_out(first=date(2020, 1, 1), last=date(2030, 1, 1)).rows) == []


def test_the_command_line_knows_it(shelves: World) -> None:
    """Listed, shown, switched and run by its name."""
    listed = json.loads(command(shelves, "documents", "list", "--json"))
    assert {one["kind"] for one in listed} == {KIND}
    shown = command(shelves, "documents", "show", "SHELF-31")
    assert "Shelf values SHELF-31: carried\n" in shown
    assert "\nBowl 24.00 GBP\n" in shown
    assert "Journal JN-" in shown
    assert "Left out by  shelf values: no price\n" in command(shelves, "documents", "show", "SHELF-33")
    assert KIND in command(shelves, "bridges", "list")
    command(shelves, "bridges", "lane", BRIDGE, KIND, "off")
    assert not any(lane.on for lane in shelves.calls.bridge(BRIDGE).read().lanes)
    command(shelves, "bridges", "lane", BRIDGE, KIND, "on")
    again = command(shelves, "run", BRIDGE)
    assert "unchanged" in again
