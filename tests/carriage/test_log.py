"""The log of a document: what happened to it, and every call about it, without secrets and people."""

from __future__ import annotations

import json

from tests.support.world import World, shop_order


def test_the_log_tells_what_happened_and_every_call(world: World) -> None:
    """Read, held, released, posted: in the order of time; the calls with how long they took and what was said."""
    order = shop_order("MW-10006")
    world.put_orders(order, reset=True)
    world.misbehave("erp", {"call": "invoices.post", "kind": "busy", "times": 1})
    world.run()
    world.settled()
    crossing = next(iter(world.calls.crossings()))
    log = world.calls.log(crossing.id)
    assert [entry.at for entry in log] == sorted(entry.at for entry in log)
    texts = [entry.text for entry in log if not entry.connection]
    assert texts[0] == "Read at the origin"
    assert texts[-1] == "Carried"
    assert any(text.startswith("Waits: ") for text in texts)
    calls = [entry for entry in log if entry.connection]
    assert [entry.call for entry in calls if entry.outcome == "answered"] == ["create", "amend", "post"]
    failed = [entry for entry in calls if entry.outcome != "answered"]
    assert [(entry.call, "asked for a pause" in entry.outcome) for entry in failed] == [("post", True)]
    assert all(entry.milliseconds is not None for entry in calls)
    assert calls[0].sent["order_number"] == "MW-10006"
    assert calls[0].answered["standing"] == "draft"
    said = world.calls.log_lines(crossing.id).decode()
    lines = [json.loads(line) for line in said.splitlines()]
    assert [line["text"] for line in lines] == [entry.text for entry in log]
    shopper = order["shopper"]
    for secret in (shopper["email"], shopper["last_name"], "mwshop-demo-secret", "Spindle Row"):
        assert secret not in said
