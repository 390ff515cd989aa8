"""A month is closed: what keeps it open, what is frozen, and what changes in it afterwards."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, datetime
from decimal import Decimal
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client import ApiError, Client, Conflict, Forbidden, MonthCalls
from inkwell_bridge.client.models import Month
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service import clock
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import crossing
from tests.carriage.test_planted_faults import read_again
from tests.carriage.test_reading_again import FIRST, SECOND, edit, of_order
from tests.support.world import BRIDGE, PASSWORD, World, joined, new_world, shop_order, wait_for, with_holds

COMPANY, MONTH = "marrowby-uk", "2026-10"
LATE, LATER = "MW-10006", "MW-10007"
EXTRA = "33.92"


@pytest.fixture
def november(stack: Stack) -> Iterator[None]:
    """October has just ended, by the company's clocks."""
    clock.set_file(stack.home / "clock", datetime.fromisoformat("2026-11-01T00:30:00+00:00"))
    yield
    demo_client.set_clock(stack)


@pytest.fixture
def carried(stack: Stack, owner: str, november: None) -> World:
    """Two orders of 13.94 and 21.75 that are carried; what changes later is for a person."""
    world = new_world(stack, owner, rules=with_holds(rulebook_text(BRIDGE)))
    world.put_orders(shop_order(FIRST), shop_order(SECOND), reset=True)
    world.run()
    return world


def month(world: World, *, calls: Any = None) -> MonthCalls:
    """Calls about its October."""
    return (calls or world.calls).month(COMPANY, MONTH)  # type: ignore[no-any-return]


def late(number: str, *, tax_class: str = "standard") -> dict[str, Any]:
    """An order of October that the shop tells of only now."""
    order = shop_order(number, last_change="2026-11-02T10:00:00+00:00")
    basket = [{**row, "tax": {**row["tax"], "class": tax_class}} for row in order["basket"]]
    return {**order, "basket": basket}


def with_one_held(world: World) -> None:
    """One order of 33.92 more, of a tax class that no rule knows, which waits for a person."""
    world.put_orders(late(LATE, tax_class="lunar"))
    assert world.run().counts.held == 1


def somebody(world: World, email: str, *, name: str = "") -> Any:
    """The calls of somebody who may close months, and no more than that."""
    joined(world.calls, email=email, role="publish", name=name)
    token = Client(world.stack.address).make_token(email=email, password=PASSWORD, name="test")
    return Client(world.stack.address, token=token).workspace(world.slug)


def since(found: Month) -> dict[tuple[str, str], tuple[int, str, int, str]]:
    """What both sides changed by, by section and currency."""
    return {
        (one.section, one.currency): (one.source.count, str(one.source.gross), one.books.count, str(one.books.gross))
        for one in found.since
    }


def frozen(world: World) -> dict[str, Any]:
    """The report as JSON."""
    return json.loads(month(world).report("json"))  # type: ignore[no-any-return]


def test_a_month_that_ties_is_closed_and_its_figures_are_kept(carried: World) -> None:
    """The checksum is worked out by hand from the report's own JSON."""
    before = month(carried).read()
    assert (before.state, before.ties, before.over, before.items, before.left) == ("open", True, True, [], 0)
    closed = month(carried).close("Agreed")
    assert closed.state == "closed"
    assert closed.closing is not None
    assert (closed.closing.number, closed.closing.note, closed.since) == (1, "Agreed", [])
    said = frozen(carried)
    (sales,) = said["report"]["headline"]
    assert (sales["source"]["count"], sales["source"]["gross"], sales["books"]["gross"]) == (2, "35.69", "35.69")
    seal = {name: value for name, value in said["seal"].items() if name != "checksum"}
    text = json.dumps({"report": said["report"], "seal": seal}, sort_keys=True, separators=(",", ":"),
                      ensure_ascii=False)  # fmt: skip
    assert hashlib.sha256(text.encode()).hexdigest() == closed.closing.checksum == said["seal"]["checksum"]
    assert carried.calls.verify_closings(COMPANY).holds
    with pytest.raises(Conflict, match="was closed by"):
        month(carried).close()
    entries = [entry.action for entry in carried.calls.trail() if entry.action.startswith("month.")]
    assert entries == ["month.closed"]


def test_a_month_that_is_not_over_or_none_is_not_closed(carried: World) -> None:
    """Nor one of a company that is not there; nothing is changed by it."""
    with pytest.raises(Conflict, match="2026-11 is not over yet"):
        carried.calls.month(COMPANY, "2026-11").close()
    for company, name in ((COMPANY, "2026-13"), (COMPANY, "october"), ("nobody", MONTH)):
        with pytest.raises(ApiError) as caught:
            carried.calls.month(company, name).close()
        assert caught.value.problem.status in (400, 404)
    assert list(carried.calls.closings()) == []


def test_what_is_open_is_mended_or_accepted_by_somebody_with_a_note(carried: World) -> None:
    """Until then the month stays open; an acceptance is of the documents and amounts that were seen."""
    with_one_held(carried)
    with pytest.raises(Conflict, match="held: tax-class-unmapped") as caught:
        month(carried).close()
    assert caught.value.problem.code == "month-differs"
    (item,) = month(carried).read().items
    assert (item.reason, item.documents) == ("held", 1)
    assert {(one.table, str(one.totals.gross)) for one in item.amounts} == {("totals", EXTRA), ("tenders", EXTRA)}
    with pytest.raises(ApiError, match="note"):
        month(carried).accept(item, "")
    after = month(carried).accept(item, "A guest; goes into November")
    assert (after.left, [one.stands for one in after.accepted]) == (0, [True])

    # Another order comes in for the same reason: it is no longer what somebody looked at.
    carried.put_orders(late(LATER, tax_class="lunar"))
    carried.run()
    now = month(carried).read()
    assert (now.left, [one.stands for one in now.accepted], now.items[0].documents) == (1, [False], 2)
    with pytest.raises(Conflict, match="is not what it was"):
        month(carried).accept(item, "As before")
    month(carried).accept(now.items[0], "Both go into November")
    closed = month(carried).close()
    assert closed.state == "closed"
    (accepted,) = frozen(carried)["report"]["accepted"]
    assert (accepted["note"], accepted["item"]["documents"]) == ("Both go into November", 2)
    with pytest.raises(Conflict):
        month(carried).not_accept(closed.accepted[-1].id)


def test_an_acceptance_can_be_taken_back(carried: World) -> None:
    """The month is open again then, and both stand on the trail."""
    with_one_held(carried)
    (item,) = month(carried).read().items
    accepted = month(carried).accept(item, "For now").accepted[-1]
    assert month(carried).not_accept(accepted.id).left == 1
    actions = [entry.action for entry in carried.calls.trail() if entry.action.startswith("difference.")]
    assert actions == ["difference.not-accepted", "difference.accepted"]


def test_what_changes_in_the_books_afterwards_stands_beside_the_closing(carried: World) -> None:
    """An invoice moves into November: October's books have 13.94 less than when it was closed; changed back, none."""
    month(carried).close()
    before = month(carried).report("json")
    invoice = of_order(carried, "invoice")
    edit(carried, "invoice", invoice["id"], date="2026-11-02")
    read_again(carried)
    found = month(carried).read()
    assert since(found) == {("sales", "GBP"): (0, "0.00", -1, "-13.94")}
    assert [(one.reason, one.documents) for one in found.differing_since] == [("changed in the books", 1)]
    (changed,) = month(carried).changes()
    assert (changed.number, changed.source.gross, changed.books.gross) == (FIRST, 0, Decimal("-13.94"))
    assert month(carried).report("json") == before
    # Its own history says so, too.
    (event,) = [one for one in crossing(carried, FIRST).history if one.kind == "closed"]
    assert event.detail["text"] == "October 2026 of Marrowby Yarn & Dye Works Ltd: beside its frozen figures"
    (listed,) = carried.calls.closings(company=COMPANY)
    assert listed.changed == 1

    def told() -> str | None:
        return next((one.headline for one in carried.calls.troubles().troubles if one.kind == "closed month"), None)

    headline = wait_for(told, seconds=60, what="the trouble")
    assert headline.startswith("1 document changed in 2026-10, which is closed")

    edit(carried, "invoice", invoice["id"], date=invoice["date"])
    read_again(carried)
    found = month(carried).read()
    assert (found.since, found.differing_since, list(month(carried).changes())) == ([], [], [])
    wait_for(lambda: told() is None or None, seconds=60, what="the trouble to end")


def test_another_tax_code_with_the_same_gross_is_a_change_too(carried: World) -> None:
    """Totals say nothing of it; the document is named all the same."""
    month(carried).close()
    invoice = of_order(carried, "invoice")
    line = invoice["lines"][0]
    net = f"{Decimal(line['net']) + Decimal(line['tax']):.2f}"
    zero = {**line, "tax_code": "Z00", "net": net, "tax": "0.00"}
    totals = {"net": f"{Decimal(invoice['net']) + Decimal(line['tax']):.2f}",
              "tax": f"{Decimal(invoice['tax']) - Decimal(line['tax']):.2f}"}  # fmt: skip
    edit(carried, "invoice", invoice["id"], **totals, lines=[zero, *invoice["lines"][1:]])
    read_again(carried)
    (changed,) = month(carried).changes()
    assert (changed.number, changed.books.gross) == (FIRST, 0)
    (sums,) = month(carried).read().since
    assert (sums.books.gross, sums.books.net) == (0, Decimal(line["tax"]))


def test_what_the_shop_changes_or_adds_afterwards_stands_beside_it_as_well(carried: World) -> None:
    """An order of October that comes in late, and is changed again."""
    month(carried).close()
    carried.put_orders(late(LATE))
    carried.run()
    assert since(month(carried).read()) == {
        ("money", "GBP"): (1, EXTRA, 1, EXTRA), ("sales", "GBP"): (1, EXTRA, 1, EXTRA),
    }  # fmt: skip
    (changed,) = month(carried).changes()
    assert changed.number == LATE
    # The shop takes the order's carriage of 3.95 off again, and a person is asked what becomes of the invoice.
    cheaper = {**late(LATE), "carriage": None, "total": "29.97", "tax": "5.01",
               "last_change": "2026-11-02T11:00:00+00:00"}  # fmt: skip
    carried.put_orders(cheaper)
    carried.run()
    assert since(month(carried).read())["sales", "GBP"] == (1, "29.97", 1, EXTRA)


def close_anyway(world: World) -> bool:
    """Accept whatever is open by now, and close; whether it was still the same by then."""
    try:
        for item in month(world).read().items:
            month(world).accept(item, "While it runs")
        month(world).close()
    except Conflict:
        return False
    return True


def test_frozen_and_later_are_what_there_is_now(stack: Stack, owner: str, november: None) -> None:
    """Closed in the middle of a run: every order is in the closing or beside it, none in both and none in neither."""
    world = new_world(stack, owner)
    run = world.calls.bridge(BRIDGE).run()
    wait_for(lambda: len(list(world.calls.crossings(state=["carried"]))) > 10 or None, seconds=60, what="some orders")
    wait_for(lambda: close_anyway(world) or None, seconds=120, what="the closing")
    world.ended(run, seconds=180)
    world.settled()
    then = {(row["section"], row["currency"]): row for row in frozen(world)["report"]["headline"]}
    now = {(row.section, row.currency): row for row in world.calls.tie_out(**OCTOBER).rows if row.section != "both"}
    later = {(one.section, one.currency): one for one in month(world).read().since if one.section != "money"}
    assert now
    for place, row in now.items():
        for side in ("source", "books"):
            was = then.get(place, {}).get(side, {"count": 0, "gross": "0"})
            more = getattr(later[place], side) if place in later else None
            expected = (was["count"] + (more.count if more else 0), Decimal(was["gross"]) + (more.gross if more else 0))
            found = getattr(row, side)
            assert (found.count, found.gross) == expected, (place, side)


def test_only_an_owner_opens_it_again_and_the_next_closing_follows_on_it(carried: World) -> None:
    """Both closings stay, chained to one another; an earlier month that is open keeps a later one open."""
    month(carried).close()
    first = month(carried).report("json")
    with pytest.raises(Forbidden):
        month(carried, calls=somebody(carried, "p@marrowby.example")).reopen("I may not")
    assert month(carried).reopen("A late invoice").state == "open"
    with pytest.raises(Conflict, match="is not closed"):
        month(carried).reopen("Twice")
    carried.put_orders(late(LATE))
    carried.run()
    again = month(carried).close()
    assert again.closing is not None
    assert (again.closing.number, again.since) == (2, [])
    newest, before = carried.calls.closings()
    assert before.reopening is not None
    assert (newest.number, before.number, before.reopening.note) == (2, 1, "A late invoice")
    said = frozen(carried)
    assert said["seal"]["previous"] == before.checksum
    assert carried.calls.closing_report(before.id, "json") == first
    chain = carried.calls.verify_closings(COMPANY)
    assert (chain.closings, chain.holds, chain.broken) == (2, True, [])


def test_two_people_close_it_where_the_company_says_so(carried: World) -> None:
    """The one who proposed it cannot, and nobody where the figures are others by then."""
    carried.calls.change_company(COMPANY, two_close=True)
    theirs = month(carried, calls=somebody(carried, "q@marrowby.example", name="Quill"))
    with pytest.raises(Conflict, match="nobody has proposed it yet"):
        theirs.close()
    assert month(carried).propose("Please look").state == "proposed"
    with pytest.raises(Conflict, match="You proposed this month"):
        month(carried).close()
    carried.put_orders(late(LATE))
    carried.run()
    with pytest.raises(Conflict, match="are not those that"):
        theirs.close()
    month(carried).propose("With the late one")
    closed = theirs.close("Looked at")
    assert closed.closing is not None
    assert closed.closing.closed_by == "q@marrowby.example"
    seal = frozen(carried)["seal"]
    assert (seal["closed_by"], seal["proposed_by"][-len("@inkwell.example)") :]) == (
        "Quill (q@marrowby.example)", "@inkwell.example)",
    )  # fmt: skip
    assert closed.proposal is None


def test_a_sheet_that_does_not_add_up_is_not_closed(carried: World) -> None:
    """Nobody can accept what no document accounts for: a total of a day that was put beside the others."""
    with psycopg.connect(carried.stack.environment["DATABASE_URL"], autocommit=True) as db:
        columns = (
            "workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role, account, merged"
        )
        db.execute(
            f"""INSERT INTO carriage_daytotal ({columns}, count, net, tax, gross)
                SELECT {columns}, 0, 1, -1, 0 FROM carriage_daytotal
                WHERE side = 'books' AND grain = 'document' AND section = 'sales'
                  AND workspace_id = (SELECT id FROM people_workspace WHERE slug = %s) LIMIT 1""",
            [carried.slug],
        )
    assert not month(carried).read().ties
    with pytest.raises(Conflict, match=r"parts leave 0 documents, net -1\.00, tax 1\.00") as caught:
        month(carried).close()
    assert caught.value.problem.code == "sheet-does-not-add-up"


@contextmanager
def unguarded(db: psycopg.Connection) -> Iterator[None]:
    """What somebody could do who owns the database itself."""
    db.execute("ALTER TABLE closing_monthclosing DISABLE TRIGGER closing_monthclosing_kept")
    yield
    db.execute("ALTER TABLE closing_monthclosing ENABLE TRIGGER closing_monthclosing_kept")


def test_nobody_changes_a_closing_and_who_did_would_be_found(carried: World) -> None:
    """The database refuses it; with its guard taken down, the checksums tell."""
    month(carried).close()
    with psycopg.connect(carried.stack.environment["DATABASE_URL"], autocommit=True) as db:
        query = "FROM people_workspace WHERE slug = %s"
        where = f"WHERE workspace_id = (SELECT id {query})"
        for statement in ("UPDATE closing_monthclosing SET note = 'x'", "DELETE FROM closing_monthclosing"):
            with pytest.raises(psycopg.errors.RaiseException, match="kept as it was written"):
                db.execute(f"{statement} {where}", [carried.slug])
        with unguarded(db):
            changed = "jsonb_set(content, '{report,headline,0,books,gross}', '\"99.99\"')"
            db.execute(f"UPDATE closing_monthclosing SET content = {changed} {where}", [carried.slug])
        chain = carried.calls.verify_closings(COMPANY)
        assert (chain.holds, [one.why for one in chain.broken]) == (
            False, ["Its checksum is not that of its figures."],
        )  # fmt: skip
        with unguarded(db):
            db.execute(f"DELETE FROM closing_monthclosing {where}", [carried.slug])
    chain = carried.calls.verify_closings(COMPANY)
    assert [one.why for one in chain.broken] == ["By the trail there were 1 closings; here are 0."]


def test_a_day_that_tied_and_ties_no_longer_is_told(carried: World) -> None:
    """Once somebody has changed an invoice of it; and over again when that is undone."""

    def told() -> str | None:
        return next((one.text for one in carried.calls.troubles().troubles if one.kind == "untied day"), None)

    invoice = of_order(carried, "invoice")
    # First it must have been seen to tie.
    with psycopg.connect(carried.stack.environment["DATABASE_URL"], autocommit=True) as db:
        days = (
            "SELECT count(*) FROM tieout_tiedday WHERE workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)"
        )
        wait_for(lambda: (db.execute(days, [carried.slug]).fetchone() or (0,))[0] or None, seconds=60, what="the days")
    edit(carried, "invoice", invoice["id"], contact=invoice["contact"] + 1)
    read_again(carried)
    text = wait_for(told, seconds=60, what="the trouble")
    assert date.fromisoformat(invoice["date"]).strftime("%B") in text
    edit(carried, "invoice", invoice["id"], contact=invoice["contact"])
    read_again(carried)
    wait_for(lambda: told() is None or None, seconds=60, what="the trouble to end")
