"""What the books hold already is adopted, not posted again: typed in, from before the start, forgotten by us."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

import psycopg
import pytest

from inkwell_bridge.client import Conflict
from inkwell_bridge.client.models import Crossing
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.ends.erp.rpc import Rpc
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import refund
from tests.support.ends import BENCHES
from tests.support.world import BRIDGE, World, few_orders, new_world, shop_order, wait_for

# 13.94, placed on 3 October.
TYPED = "MW-10003"


@pytest.fixture
def shop(world: World) -> World:
    """Three orders of the demo's first days."""
    world.put_orders(*(shop_order(number) for number in (TYPED, "MW-10006", "MW-10009")), reset=True)
    return world


def type_in(world: World, number: str, gross: str, *, post: bool = True) -> str:
    """Enter an invoice by hand, with the order's number for its reference; answers its id."""
    rpc: Rpc = BENCHES["erp"].open(world)._rpc
    contact = rpc.change("contacts.create", code="", name="By hand", email="")["id"]
    line = {"text": "by hand", "note": "", "account": "4000", "quantity": "1", "unit_price": gross, "tax_code": "Z00"}
    made = rpc.change("invoices.create", contact=contact, date="2026-10-05", currency="GBP", reference=number, order="",
                      link="", memo="", lines=[line])  # fmt: skip
    if post:
        rpc.change("invoices.post", id=made["id"])
    return str(made["id"])


def carried(world: World) -> dict[str, Crossing]:
    """What became of each order."""
    return {one.number: one for one in world.calls.crossings()}


def test_what_somebody_typed_in_is_adopted(shop: World) -> None:
    """Known by the order's number: nothing is posted for it, and the sums on both sides tie."""
    typed = type_in(shop, TYPED, "13.94")
    run = shop.run()
    assert (run.counts.carried, run.counts.adopted) == (2, 1)
    crossing = carried(shop)[TYPED]
    assert [(one.state, one.books_id, one.gross) for one in crossing.documents] == [("adopted", typed, crossing.gross)]
    (finding,) = shop.calls.crossing(crossing.id).findings
    assert finding.id == "ADOPT-N001"
    assert len(shop.invoices()) == 3
    (totals,) = shop.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    assert (totals.part("adopted as it was entered").gross, totals.ties) == (0, True)
    again = shop.run().counts
    assert (again.carried, again.adopted) == (0, 0)


def test_a_draft_typed_in_is_as_good(shop: World) -> None:
    """Somebody is at it; a second one would be a double."""
    type_in(shop, TYPED, "13.94", post=False)
    assert shop.run().counts.adopted == 1


def test_another_total_is_for_a_person(shop: World) -> None:
    """Held with both figures; adopted by hand, it stays as the books have it."""
    typed = type_in(shop, TYPED, "14.00")
    shop.run()
    crossing = carried(shop)[TYPED]
    assert (crossing.state, crossing.cause) == ("held", "typed-in-books")
    (finding,) = shop.calls.crossing(crossing.id).findings
    assert finding.text == (
        "SI-00001 in the books bears the number MW-10003, and says 14.00 GBP where the order says 13.94 GBP."
    )
    adopted = shop.calls.adopt(crossing.id, typed)
    assert adopted.state == "adopted"
    (totals,) = shop.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    assert (totals.part("adopted as it was entered").gross, totals.ties) == (Decimal("-0.06"), True)
    with pytest.raises(Conflict, match="is in the books already"):
        shop.calls.adopt(crossing.id, typed)


def test_two_with_the_number_are_for_a_person(shop: World) -> None:
    """Both are named; with one of them taken away, the other is adopted."""
    type_in(shop, TYPED, "13.94")
    draft = type_in(shop, TYPED, "13.94", post=False)
    shop.run()
    crossing = carried(shop)[TYPED]
    assert crossing.cause == "typed-in-books"
    (finding,) = shop.calls.crossing(crossing.id).findings
    assert f"SI-00001, draft {draft} in the books all bear the number" in finding.text
    BENCHES["erp"].open(shop)._rpc.change("invoices.void", id=int(draft))
    shop.calls.release(cause="typed-in-books")
    shop.settled()
    assert carried(shop)[TYPED].state == "adopted"


def test_what_does_not_bear_the_number_cannot_be_adopted(shop: World) -> None:
    """Whatever its id."""
    other = type_in(shop, "MW-99999", "13.94")
    type_in(shop, TYPED, "14.00")
    shop.run()
    with pytest.raises(Conflict, match="bears the number MW-10003"):
        shop.calls.adopt(carried(shop)[TYPED].id, other)


def test_from_before_the_start_nothing_is_posted(shop: World) -> None:
    """Found by its number it is adopted, whatever its total; the others are left out, by name."""
    shop.calls.bridge(BRIDGE).change(starts_on=date(2026, 10, 5))
    type_in(shop, TYPED, "14.00")
    run = shop.run()
    found = carried(shop)
    assert (run.counts.adopted, run.counts.left_out, run.counts.carried) == (1, 1, 1)
    assert shop.calls.crossing(found[TYPED].id).findings[0].id == "ADOPT-W001"
    assert (found["MW-10006"].state, found["MW-10006"].left_out_by) == ("left out", "/bridge/starts_on")
    assert found["MW-10009"].state == "carried"
    assert len(shop.invoices()) == 2


def test_an_adopted_order_that_changes_is_for_a_person(shop: World) -> None:
    """Another total; a change of anything else is none of the books' business."""
    type_in(shop, TYPED, "13.94")
    shop.run()
    order = shop_order(TYPED)
    shop.put_orders({**order, "state": "completed", "last_change": "2026-10-30T10:00:00+00:00"})
    shop.run()
    assert carried(shop)[TYPED].state == "adopted"
    row = order["basket"][0]
    basket = [{**row, "price": "10.99", "sum": "10.99", "tax": {**row["tax"], "sum": "1.83"}}]
    shop.put_orders({**order, "basket": basket, "total": "14.94", "tax": "2.49",
                     "last_change": "2026-10-30T11:00:00+00:00"})  # fmt: skip
    shop.run()
    assert carried(shop)[TYPED].cause == "source-changed"
    assert len(shop.invoices()) == 3


def test_after_a_restore_what_we_posted_is_adopted_before_anything_runs(world: World) -> None:
    """The database forgot all of it; the books hold it under our references. Nothing is posted again."""
    world.put_orders(*few_orders()[:12], reset=True)
    first = world.run()
    posted = len(world.invoices())
    assert posted == first.counts.carried
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        row = db.execute("SELECT id FROM people_workspace WHERE slug = %s", [world.slug]).fetchone()
        workspace = row[0] if row else 0
        _forget(db, workspace)
    run = world.ended(world.calls.bridge(BRIDGE).adopt())
    assert (run.purpose, run.state, run.counts.adopted) == ("adopt", "ended", posted)
    again = world.run()
    assert (again.counts.carried, again.counts.unchanged) == (0, posted)
    assert len(world.invoices()) == posted
    (totals,) = world.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    assert (totals.unexplained.gross, totals.unexplained.count) == (0, 0)
    known = world.ended(world.calls.bridge(BRIDGE).adopt())
    assert (known.counts.adopted, known.counts.unchanged, known.trouble) == (0, posted, "")


def test_what_belongs_to_no_order_is_named_by_adopting(world: World) -> None:
    """The books hold an invoice of ours, and the shop has no such order any more."""
    kept, gone = few_orders()[:2]
    world.put_orders(kept, gone, reset=True)
    world.run()
    (astray,) = [one["number"] for one in world.invoices() if one["order"] == gone["reference"]]
    world.put_orders(kept, reset=True)
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        row = db.execute("SELECT id FROM people_workspace WHERE slug = %s", [world.slug]).fetchone()
        _forget(db, row[0] if row else 0)
    run = world.ended(world.calls.bridge(BRIDGE).adopt())
    assert (run.state, run.counts.adopted) == ("ended", 1)
    assert run.trouble == f"The books hold these under our references, and the shop has no such order: {astray}."


def test_while_one_adopts_nothing_else_runs(world: World) -> None:
    """The run that is under way is named."""
    world.misbehave("erp", {"call": "invoices.list", "kind": "hold"})
    run = world.calls.bridge(BRIDGE).adopt()
    with pytest.raises(Conflict, match="is running already"):
        world.calls.bridge(BRIDGE).run()
    world.misbehave("erp")
    wait_for(lambda: None if world.calls.run(run.id).under_way else True, seconds=30, what="the run")


def test_after_a_restore_nothing_is_posted_twice_without_adopting_either(world: World) -> None:
    """Nobody said *adopt*: the books are asked for the order's number, and what is ours there is taken up."""
    world.put_orders(*few_orders()[:6], reset=True)
    world.run()
    posted = world.books()["invoice"]
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        (workspace,) = db.execute("SELECT id FROM people_workspace WHERE slug = %s", [world.slug]).fetchone() or (0,)
        _forget(db, workspace)
    again = world.run()
    assert again.counts.carried == len(posted) > 0
    assert world.books()["invoice"] == posted


def _forget(db: psycopg.Connection, workspace: int) -> None:
    """Let the database know nothing of what was carried, as an old backup would."""
    db.execute("ALTER TABLE carriage_figure DISABLE TRIGGER carriage_figure_kept")
    for table in ("runentry", "exchange", "crossingevent", "moneymovement", "figure", "documentsource", "document",
                  "crossing", "run", "contactlink"):  # fmt: skip
        db.execute(f"DELETE FROM carriage_{table} WHERE workspace_id = %s", [workspace])
    db.execute("ALTER TABLE carriage_figure ENABLE TRIGGER carriage_figure_kept")
    db.execute("UPDATE bridges_lane SET read_up_to = NULL WHERE workspace_id = %s", [workspace])


def test_what_was_paid_too_much_for_an_adopted_one_goes_back_by_hand(stack: Stack, owner: str) -> None:
    """13.99 for 13.94 that somebody typed in: he keeps its account, so the 0.05 that go back are his to enter too."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    order = shop_order(TYPED)
    world.put_orders({**order, "received": [{**order["received"][0], "sum": "13.99"}]}, reset=True)
    type_in(world, TYPED, "13.94")
    world.run()
    assert carried(world)[TYPED].state == "adopted"
    back = {"class": "outside", "percent": "0", "sum": "0.00"}
    world.put("web-shop", refunds=[refund(order=TYPED, total="0.05", rows=[], tax="0.00",
        goodwill=[{"row": "goodwill", "title": "Back", "sum": "0.05", "tax": back}],
        paid_back=[{"transaction": "wg_r_801", "by": "card", "with": "card", "sum": "0.05",
                    "when": "2026-10-20T10:00:00+00:00"}])])  # fmt: skip
    world.run()
    found = carried(world)["MW-R-801"]
    (finding,) = world.calls.crossing(found.id).findings
    assert (found.state, found.documents, finding.id) == ("held", [], "REFUND-E004")
    assert finding.hint == "Enter the refund in the books by hand, beside that document."
