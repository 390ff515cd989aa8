"""Documents go either way over a bridge by the same intent, key, search and proof; the shop hears what became of its
orders."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from inkwell_bridge.client.models import Crossing
from inkwell_bridge.core.books import Dispatch, GoodsLine
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.ends import BENCHES, LEVEL, STOCKED
from tests.support.world import BRIDGE, FAST, World, first_owner, new_world, running, shop_order, wait_for

ARTICLE = "YRN-MER4-HEA"


@pytest.fixture(scope="module")
def stack(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """A service that was told of three kinds more."""
    with running(
        Stack(
            database_url=new_database("bothways"),
            home=tmp_path_factory.mktemp("bothways"),
            console=places.console(),
            extra={**FAST, "INKWELL_KINDS": "tests.support.both_ways", "PYTHONPATH": str(places.root())},
        )
    ) as started:
        yield started


@pytest.fixture(scope="module")
def owner(stack: Stack) -> str:
    """Whoever may open worlds there."""
    return first_owner(stack)


@pytest.fixture
def warehouse(stack: Stack, owner: str) -> World:
    """A client whose books keep ten of an article in the mill, and whose shop has one order of it."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put("erp", **STOCKED)
    world.put_orders(shop_order("MW-10003"), reset=True)
    return world


def lanes(world: World, *kinds: str) -> None:
    """Switch these on, and all others off."""
    bridge = world.calls.bridge(BRIDGE)
    for lane in bridge.read().lanes:
        bridge.switch_lane(lane.kind, on=lane.kind in kinds)


def send(world: World, reference: str, quantity: str, *, order: str = "MW-10003") -> None:
    """Somebody posts a dispatch in the books."""
    erp = BENCHES["erp"].books(world)
    line = GoodsLine(line_reference="1", item=ARTICLE, quantity=quantity, lot="BATH-7")  # type: ignore[arg-type]
    parcel = Dispatch(
        external_reference=reference, date="2026-10-06", order_number=order, warehouse="MILL",  # type: ignore[arg-type]
        carrier="Otter Parcels", tracking_number=f"OT-{reference}", lines=(line,),
    )  # fmt: skip
    erp.post(erp.create(parcel, contact_id="", key=reference))


def shop(world: World, what: str) -> list[dict[str, Any]]:
    """What the shop holds of something."""
    return world.held_by("web-shop").get(what, [])


def of_kind(world: World, kind: str) -> list[Crossing]:
    """The source documents of a kind, oldest first."""
    return sorted((one for one in world.calls.crossings() if one.kind == kind), key=lambda one: one.id)


def test_a_dispatch_of_the_books_reaches_the_order_at_the_shop(warehouse: World) -> None:
    """With carrier, number and lot, under our reference; read back and compared."""
    send(warehouse, "W-1", "2")
    lanes(warehouse, "parcels")
    warehouse.run()
    (one,) = of_kind(warehouse, "parcels")
    assert one.state == "carried"
    (document,) = one.documents
    assert (document.role, document.state) == ("dispatch", "proved")
    (parcel,) = shop(warehouse, "dispatch")
    assert (parcel["reference"], parcel["order"]) == (document.external_reference, "MW-10003")
    assert (parcel["carrier"], parcel["tracking"], parcel["from"]) == ("Otter Parcels", "OT-W-1", "Mill")
    assert [(row["article"], row["count"], row["lots"]) for row in parcel["rows"]] == [
        (ARTICLE, "2", [{"lot": "BATH-7", "count": "2"}])
    ]
    history = [event.kind for event in warehouse.calls.crossing(one.id).history]
    assert history == ["staged", "posted", "proved", "carried"]
    # A second run finds nothing new, and tells nobody twice.
    warehouse.run()
    assert len(shop(warehouse, "dispatch")) == 1


@pytest.mark.parametrize("kind", ["cut", "silent", "late", "broken", "busy"])
def test_a_dispatch_is_told_once_whatever_the_shop_answers(warehouse: World, kind: str) -> None:
    """Done and not answered, done later, or not done: it stands there once."""
    send(warehouse, "W-2", "1")
    lanes(warehouse, "parcels")
    warehouse.misbehave("shop", {"call": "orders.dispatch", "kind": kind, "seconds": 2})
    warehouse.calls.bridge(BRIDGE).run()
    wait_for(
        lambda: [one.state for one in of_kind(warehouse, "parcels")] == ["carried"] or None,
        seconds=40, what="the parcel",
    )  # fmt: skip
    assert [(rule["kind"], rule["struck"]) for rule in warehouse.misbehaved("shop")] == [(kind, 1)]
    assert len(shop(warehouse, "dispatch")) == 1


def test_what_the_shop_refuses_waits_for_a_person(warehouse: World) -> None:
    """The shop has no such order; the other parcel is told all the same."""
    send(warehouse, "W-3", "1", order="MW-99999")
    send(warehouse, "W-4", "1")
    lanes(warehouse, "parcels")
    warehouse.run()
    held, carried = of_kind(warehouse, "parcels")
    assert (held.state, held.cause, carried.state) == ("held", "sales-side-refused", "carried")
    (finding,) = warehouse.calls.crossing(held.id).findings
    assert finding.id == "SALES-E001"


def test_a_parcel_that_says_other_goods_differs(warehouse: World) -> None:
    """Somebody changed the parcel at the shop before it was read back: the count is named."""
    send(warehouse, "W-5", "2")
    lanes(warehouse, "parcels")
    # Told, and no answer; what stands there then says three in place of two.
    warehouse.misbehave("shop", {"call": "orders.dispatch", "kind": "cut"}, {"call": "dispatch", "kind": "broken",
                                                                            "times": 2})  # fmt: skip
    warehouse.calls.bridge(BRIDGE).run()
    parcel = wait_for(lambda: next(iter(shop(warehouse, "dispatch")), None), seconds=20, what="the parcel")
    (row,) = parcel["rows"]
    warehouse.put("web-shop", dispatches=[{**parcel, "rows": [{**row, "count": "3", "lots": [
        {"lot": "BATH-7", "count": "3"}]}]}])  # fmt: skip
    warehouse.misbehave("shop")
    wait_for(
        lambda: [one.state for one in of_kind(warehouse, "parcels")] == ["differs"] or None,
        seconds=40, what="the parcel",
    )  # fmt: skip
    (one,) = of_kind(warehouse, "parcels")
    (finding,) = warehouse.calls.crossing(one.id).findings
    assert finding.text == "lines/0/quantity: planned 2, found 3"


def test_the_newest_stock_level_stands_at_the_shop(warehouse: World) -> None:
    """10 there and 8 free; of one sent 9 and 7, a further document of the same source; asked again, nothing more."""
    lanes(warehouse, "levels")
    warehouse.run()
    assert [(one["there"], one["free"]) for one in shop(warehouse, "stock")] == [("10", "8")]
    send(warehouse, "W-6", "1")
    warehouse.run()
    assert [(one["article"], one["at"], one["there"], one["free"]) for one in shop(warehouse, "stock")] == [
        (ARTICLE, "Mill", "9", "7")
    ]
    (one,) = of_kind(warehouse, "levels")
    assert one.state == "carried"
    assert [document.state for document in one.documents] == ["proved", "proved"]
    warehouse.run()
    assert len(warehouse.calls.crossing(one.id).documents) == 2


def test_a_level_that_was_set_by_hand_is_set_right(warehouse: World) -> None:
    """The shop has a level of its own already: it is made to say what the books say."""
    warehouse.put("web-shop", stock=[LEVEL])
    lanes(warehouse, "levels")
    warehouse.misbehave("shop", {"call": "stock.set", "kind": "broken"})
    warehouse.calls.bridge(BRIDGE).run()
    wait_for(
        lambda: [one.state for one in of_kind(warehouse, "levels")] == ["carried"] or None, seconds=40, what="the level"
    )
    assert [(one["there"], one["free"]) for one in shop(warehouse, "stock")] == [("10", "8")]


def remarks(world: World) -> list[str]:
    """What is written on the shop's order."""
    (order,) = shop(world, "order")
    return [remark["text"] for remark in order.get("remarks", [])]


@pytest.mark.parametrize("kind", ["none", "cut", "broken"])
def test_the_shop_hears_what_became_of_its_order(warehouse: World, kind: str) -> None:
    """The journal's number, once, after it was proved; also where the first call had no answer."""
    lanes(warehouse, "told")
    if kind != "none":
        warehouse.misbehave("shop", {"call": "orders.remark", "kind": kind})
    warehouse.calls.bridge(BRIDGE).run()
    wait_for(
        lambda: [one.state for one in of_kind(warehouse, "told")] == ["carried"] or None, seconds=40, what="the order"
    )
    (one,) = of_kind(warehouse, "told")
    (journal,) = warehouse.books()["journal"]
    assert remarks(warehouse) == [f"In the books as {journal['number']}"]
    history = [event.kind for event in warehouse.calls.crossing(one.id).history]
    assert [word for word in history if word != "waiting"] == ["staged", "posted", "proved", "reported", "carried"]


def test_a_shop_that_takes_no_notes_holds_nothing_up(warehouse: World) -> None:
    """The document stands; that nothing was written back is a warning."""
    lanes(warehouse, "told")
    warehouse.misbehave("shop", {"call": "orders.remark", "kind": "forbidden", "times": 100})
    warehouse.run()
    (one,) = of_kind(warehouse, "told")
    assert one.state == "carried"
    (finding,) = warehouse.calls.crossing(one.id).findings
    assert (finding.id, finding.level) == ("BACK-W001", "warning")
    assert remarks(warehouse) == []
