"""What no shop should hand out: it alone is held, with its reason, and the rest of its page crosses."""

from __future__ import annotations

import json
from typing import Any

import psycopg
import pytest

from inkwell_bridge.demo.october import october
from tests.support.world import BRIDGE, FEW, World, shop_order, wait_for

GOOD = 25
HOSTILE: dict[str, tuple[dict[str, Any], str]] = {
    "a null character": ({"page": "https://shop.example/\u0000"}, "U+0000"),
    "half a surrogate pair": ({"group": "wholesale \ud83d"}, "unicode"),
    "a status of half a pair": ({"state": "\udfff"}, "unicode"),
    "an amount of 10^30": ({"total": "1" + "0" * 30}, "at most 15 digits"),
    "an amount in an exponent": ({"total": "1E+40"}, "at most 15 digits"),
    "a tiny amount": ({"total": "1E-90"}, "digits"),
    "a nought of 400,000,000 digits": ({"total": "0E-400000000"}, "digits"),
    "the first moment of the calendar": ({"placed": "0001-01-01T00:00:00Z"}, "between the years 1900 and 2200"),
    "its last": ({"last_change": "9999-12-31T23:59:59Z"}, "between the years 1900 and 2200"),
    "an unknown currency": ({"currency": "ZZZ"}, "ISO 4217"),
    "an amount that is a list": ({"total": []}, "total"),
    "a number of 10,000 characters": ({"reference": "M" * 10_000}, "120 characters"),
    "an id of 10,000 characters": ({"id": "9" * 10_000}, "120 characters"),
}


def a_page(world: World, **hostile: Any) -> None:
    """One page of the shop, as it would stand on the wire: good orders, with one in their middle that is not."""
    orders = october()[: GOOD - 1]
    bad = {**shop_order("MW-10040"), **hostile}
    body = json.dumps({"orders": [*orders[:10], bad, *orders[10:]], "total": GOOD})
    world.misbehave("shop", {"call": "orders", "kind": "said", "body": body, "times": 1})


@pytest.mark.parametrize("what", HOSTILE)
def test_it_alone_is_held(world: World, what: str) -> None:
    """By its own row, with what is wrong with it; what stands beside it on the page is posted."""
    hostile, said = HOSTILE[what]
    world.put_orders(reset=True)
    a_page(world, **hostile)
    run = world.run()
    assert (run.state, run.counts.held) == ("ended", 1)
    assert run.counts.carried + run.counts.left_out == GOOD - 1
    (held,) = world.calls.crossings(state=["held"])
    assert held.cause == "source-invalid"
    finding = world.calls.crossing(held.id).findings[0]
    assert finding.id == "SRC-E010"
    assert said in finding.text
    assert len(held.number) <= 120


def test_an_order_too_large_to_be_read_is_held_by_itself(world: World) -> None:
    """Twenty-one million characters among two dozen orders: those cross, and it is held under its own number."""
    orders = october()[: GOOD - 1]
    vast = {**shop_order("MW-10040"), "remark": "x" * 21_000_000}
    world.put_orders(*orders[:10], vast, *orders[10:], reset=True)
    for _ in range(2):
        # It is not lost, and stops no later run.
        run = world.run(seconds=120)
        assert run.state == "ended"
    (held,) = world.calls.crossings(state=["held"])
    assert (held.number, held.cause) == ("MW-10040", "source-invalid")
    assert "more than 20000000 bytes" in world.calls.crossing(held.id).findings[0].text
    assert len(list(world.calls.crossings())) == GOOD
    assert not list(world.calls.crossings(state=["waiting"]))
    # Mended, it crosses like any other.
    world.put_orders({**shop_order("MW-10040"), "last_change": "2026-10-30T10:00:00+00:00"})
    world.run(seconds=120)
    assert next(iter(world.calls.crossings(search="MW-10040"))).state == "carried"


def test_the_same_order_twice_on_a_page_crosses_once(small: World) -> None:
    """Another version of it on the same page is the newer one."""
    small.misbehave("shop", {"call": "orders", "kind": "repeat", "times": 10})
    assert small.run().counts.carried == FEW
    assert len(small.invoices()) == FEW


@pytest.mark.parametrize("call", ["invoices.list", "invoices.search"])
def test_one_record_of_the_books_that_cannot_be_read(small: World, call: str) -> None:
    """Many orders are asked for in one call. Where its answer cannot be understood each is asked for by itself, and the
    others cross in the same run."""
    result = {"entries": [{"id": 7}], "onward": None} if call == "invoices.list" else [{"id": 7}]
    body = json.dumps({"jsonrpc": "2.0", "id": 1, "result": result})
    small.misbehave("erp", {"call": call, "kind": "said", "body": body, "content_type": "application/json"})
    run = small.run()
    assert (run.counts.carried, run.counts.waiting, run.counts.held) == (FEW, 0, 0)
    assert small.misbehaved("erp")[0]["struck"] == 1
    assert len(small.invoices()) == FEW


def test_what_could_not_be_written_down_is_not_gone_on_with(small: World) -> None:
    """The row of a document vanishes while its draft is made: that order alone is held, and nothing of it is posted."""
    small.misbehave("erp", {"call": "invoices.create", "kind": "hold", "times": 1})
    run = small.calls.bridge(BRIDGE).run()
    wait_for(lambda: small.misbehaved("erp")[0]["waiting"] or None, seconds=30, what="a draft that is being made")
    with psycopg.connect(small.stack.environment["DATABASE_URL"], autocommit=True) as db:
        lost, reference = db.execute(
            "SELECT document.id, external_reference FROM carriage_document AS document "
            "JOIN people_workspace AS w ON w.id = document.workspace_id "
            "WHERE w.slug = %s AND intended_at IS NOT NULL ORDER BY document.id LIMIT 1",
            [small.slug],
        ).fetchone() or (0, "")
        db.execute("DELETE FROM carriage_documentsource WHERE document_id = %s", [lost])
        db.execute("DELETE FROM carriage_document WHERE id = %s", [lost])
    small.misbehave("erp")
    ended = small.ended(run)
    assert (ended.counts.held, ended.counts.carried) == (1, FEW - 1)
    (held,) = small.calls.crossings(state=["held"])
    assert small.calls.crossing(held.id).findings[0].id == "INT-E001"
    (draft,) = [one for one in small.invoices() if one["reference"] == reference]
    assert draft["state"] == "draft"
    # Released, it is looked for, found and taken up.
    small.calls.release(cause="unforeseen")
    small.settled()
    assert {one["state"] for one in small.invoices()} == {"posted"}
    assert len(small.invoices()) == FEW


def test_it_is_taken_up_once_it_is_mended(small: World) -> None:
    """The next reading finds it whole."""
    small.put_orders(shop_order("MW-10003", page="https://shop.example/\u0000"))
    assert small.run().counts.held == 1
    small.put_orders(shop_order("MW-10003", last_change="2026-10-30T10:00:00Z"))
    assert small.run().counts.carried == 1
    assert len(small.invoices()) == FEW
