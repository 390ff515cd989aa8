"""One order carried for real, as drafts: proved, looked at, and taken back or carried for good."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from datetime import date
from threading import Event

import pytest

from inkwell_bridge.client import Conflict
from inkwell_bridge.client.models import Crossing, Spread
from inkwell_bridge.ends.erp.rpc import Rpc
from tests.support.ends import BENCHES, REFUND
from tests.support.world import BRIDGE, World, shop_order, wait_for

# 13.94, placed on 3 October.
TRIED, OTHER = "MW-10003", "MW-10006"


@pytest.fixture
def shop(world: World) -> World:
    """Two orders; every lane is off, and the bridge carries from the year 2027 on."""
    world.put_orders(*(shop_order(number) for number in (TRIED, OTHER)), reset=True)
    bridge = world.calls.bridge(BRIDGE)
    for lane in bridge.read().lanes:
        if lane.on:
            bridge.switch_lane(lane.kind, on=False)
    bridge.change(starts_on="2027-01-01")
    return world


def of(world: World, number: str = TRIED) -> Spread:
    """What became of an order."""
    (crossing,) = [one for one in world.calls.crossings(bridge=BRIDGE) if one.number == number]
    return world.calls.crossing(crossing.id)


def sent(world: World, number: str = TRIED) -> Spread:
    """An order on trial, once its run has ended."""
    run = world.ended(world.calls.bridge(BRIDGE).send_on_trial(number))
    assert (run.state, run.trouble, run.purpose) == ("ended", "", "trial")
    return of(world, number)


def settled(world: World, crossing: Crossing) -> Spread:
    """What it came to, once it waits no more."""

    def look() -> Spread | None:
        found = world.calls.crossing(crossing.id)
        return None if found.state == "waiting" else found

    return wait_for(look, seconds=30, what="the order")


def standing(world: World) -> list[str]:
    """How far each invoice in the books is."""
    return [invoice["state"] for invoice in world.books()["invoice"]]


def carry_from_now_on(world: World) -> None:
    """Switch the lane on, from before the orders."""
    bridge = world.calls.bridge(BRIDGE)
    bridge.change(starts_on="2026-10-01")
    bridge.switch_lane("orders", on=True)


def test_its_documents_stand_there_as_drafts_and_are_proved(shop: World) -> None:
    """With no lane on, and placed before the start date; only that order, and nothing is posted."""
    found = sent(shop)
    assert (found.state, found.trial) == ("carried", "sent")
    (invoice,) = found.documents
    assert (invoice.state, invoice.gross) == ("drafted", found.gross)
    assert invoice.books_id
    assert standing(shop) == ["draft"]
    (note,) = [one for one in found.findings if one.id == "TRIAL-N001"]
    assert note.text == "Carried on trial: all of it stands in the books as drafts, and counts there for nothing."
    assert [one.number for one in shop.calls.crossings()] == [TRIED]


def test_taken_back_nothing_stands_there_and_nothing_counts(shop: World) -> None:
    """Its draft is void; what a run makes of it later is a new invoice, and one alone."""
    found = sent(shop)
    after = settled(shop, shop.calls.take_back(found.id))
    assert (after.state, after.left_out_by, after.documents) == ("left out", "trial taken back", [])
    assert standing(shop) == ["void"]
    (totals,) = shop.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    assert (totals.books.gross, totals.unexplained.gross) == (0, 0)
    with pytest.raises(Conflict, match="is not on trial"):
        shop.calls.take_back(found.id)
    carry_from_now_on(shop)
    run = shop.run()
    assert run.counts.carried == 2
    assert sorted(standing(shop)) == ["posted", "posted", "void"]
    assert (of(shop).state, of(shop).trial) == ("carried", "")


def test_carried_for_good_its_draft_is_posted(shop: World) -> None:
    """The same document, not another; before the start date it is refused."""
    found = sent(shop)
    with pytest.raises(Conflict, match="was placed before 01 January 2027"):
        shop.calls.carry_for_good(found.id)
    assert of(shop).trial == "sent"
    carry_from_now_on(shop)
    after = settled(shop, shop.calls.carry_for_good(found.id))
    assert (after.state, after.trial) == ("carried", "")
    (invoice,) = after.documents
    assert (invoice.state, invoice.books_id) == ("proved", found.documents[0].books_id)
    assert standing(shop) == ["posted"]
    assert not [one for one in after.findings if one.id.startswith("TRIAL")]


def test_under_a_draft_of_the_rules_and_made_anew_under_those_in_force(shop: World) -> None:
    """A draft puts carriage on 4200; carried for good under the first version it stands on 4100 again."""
    bridge = shop.calls.bridge(BRIDGE)
    draft = bridge.write_rulebook(bridge.rulebook(1).text.replace('shipping: "4100"', 'shipping: "4200"'))
    run = shop.ended(bridge.send_on_trial(TRIED, rulebook=draft.number))
    assert run.trouble == ""
    carriage = {line["account"] for invoice in shop.books()["invoice"] for line in invoice["lines"]}
    assert carriage - {"8200"} == {"4000", "4200"}
    carry_from_now_on(shop)
    after = settled(shop, shop.calls.carry_for_good(of(shop).id))
    assert after.state == "carried"
    (posted,) = [one for one in shop.books()["invoice"] if one["state"] == "posted"]
    assert "4100" in {line["account"] for line in posted["lines"]}
    assert standing(shop).count("posted") == 1
    assert "draft" not in standing(shop)


def test_what_is_in_the_books_is_not_sent_again(shop: World) -> None:
    """Neither what was carried, nor what is on trial already; an order that the shop does not have ends its run."""
    sent(shop)
    with pytest.raises(Conflict, match=f"{TRIED} is in the books already"):
        shop.calls.bridge(BRIDGE).send_on_trial(TRIED)
    carry_from_now_on(shop)
    shop.run()
    # A run leaves what is on trial as it is, and carries the rest.
    assert (of(shop).trial, of(shop).documents[0].state) == ("sent", "drafted")
    with pytest.raises(Conflict, match=f"{OTHER} is in the books already"):
        shop.calls.bridge(BRIDGE).send_on_trial(OTHER)
    run = shop.ended(shop.calls.bridge(BRIDGE).send_on_trial("MW-99999"))
    assert (run.state, run.trouble) == ("failed", "Marrowby web shop: it has no order MW-99999.")


def test_a_trial_that_is_held_is_over(shop: World) -> None:
    """Nothing of it stands anywhere, and it is like any other that is held; sent again under other rules it goes."""
    bridge = shop.calls.bridge(BRIDGE)
    text = bridge.rulebook(1).text
    draft = bridge.write_rulebook(text.replace("    standard: S20\n", ""))
    run = shop.ended(bridge.send_on_trial(TRIED, rulebook=draft.number))
    assert run.counts.held == 1
    assert (of(shop).state, of(shop).trial, of(shop).cause) == ("held", "", "tax-class-unmapped")
    assert shop.books()["invoice"] == []
    run = shop.ended(bridge.send_on_trial(TRIED, rulebook=1))
    assert run.counts.carried == 1
    assert (of(shop).state, of(shop).trial, standing(shop)) == ("carried", "sent", ["draft"])


def test_what_somebody_posted_meanwhile_cannot_be_taken_back(shop: World) -> None:
    """It waits for a person, who hears which; once it is void there, releasing ends it."""
    found = sent(shop)
    rpc: Rpc = BENCHES["erp"].open(shop)._rpc
    rpc.change("invoices.post", id=int(found.documents[0].books_id))
    after = settled(shop, shop.calls.take_back(found.id))
    assert after.state == "held"
    (finding,) = after.findings
    assert finding.id == "TRIAL-E002"
    assert f"of the trial of {TRIED} was posted in the books by somebody" in finding.text
    assert standing(shop) == ["posted"]


def test_a_refund_of_what_is_on_trial_waits(shop: World) -> None:
    """Nothing is credited against a draft that may be taken back; carried for good, the refund goes by itself."""
    bridge = shop.calls.bridge(BRIDGE)
    rules = bridge.write_rulebook(bridge.rulebook(1).text + "\nrefunds:\n  arrive: posted\n")
    bridge.publish_rulebook(rules.number)
    found = sent(shop)
    tax = {"class": "standard", "percent": "20", "sum": "1.67"}
    row = {**REFUND["rows"][0], "article": "YRN-SOCK-FEN", "sum": "9.99", "tax": tax}
    shop.put("web-shop", refunds=[{**REFUND, "rows": [row], "goodwill": [], "paid_back": [], "tax": "1.67",
                                   "total": "9.99"}])  # fmt: skip
    carry_from_now_on(shop)
    shop.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    shop.run()
    refund = of(shop, REFUND["reference"])
    assert refund.state == "held"
    assert "which is on trial, or was" in refund.findings[0].text
    settled(shop, shop.calls.carry_for_good(found.id))
    wait_for(lambda: of(shop, REFUND["reference"]).state != "held" or None, seconds=30, what="the refund")


def test_it_can_be_looked_at_while_it_is_taken_back(shop: World) -> None:
    """Its drafts go while somebody reads it: what is read is of before or of after, and never half of it."""
    found, over = sent(shop), Event()

    def look() -> int:
        looked = 0
        while not over.is_set():
            shop.calls.crossing(found.id)
            looked += 1
        return looked

    with ThreadPoolExecutor(4) as several:
        looks = [several.submit(look) for _ in range(4)]
        try:
            for _ in range(5):
                settled(shop, shop.calls.take_back(found.id))
                sent(shop)
        finally:
            over.set()
        assert all(one.result() > 5 for one in looks)
