"""Runs over the API: read, carried, held, left out; run again; changed orders; totals."""

from __future__ import annotations

import re
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client import Conflict
from inkwell_bridge.demo.facts import expected, facts, rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, FEW, HTTP, World, invoices_alone, new_world, shop_order, wait_for, with_holds


@pytest.fixture(scope="module")
def carried(stack: Stack, owner: str) -> World:
    """A world whose October was carried; tests that change something take a world of their own."""
    world = new_world(stack, owner)
    world.run()
    return world


def changed_later(number: str, **fields: Any) -> dict[str, Any]:
    """The same, with a later time of change."""
    later = datetime.fromisoformat("2026-10-31T19:50:00+00:00")
    return shop_order(number, last_change=later.isoformat(), **fields)


def crossing(world: World, number: str) -> Any:
    """One crossing in full."""
    (found,) = [row for row in world.calls.crossings(search=number) if row.number == number]
    return world.calls.crossing(found.id)


def test_every_figure_of_october(carried: World) -> None:
    """As worked out apart from the program, order by order for the odd ones."""
    (run,) = carried.calls.runs()
    run = carried.calls.run(run.id)
    wanted = expected()
    assert (run.counts.read, run.counts.carried, run.counts.held, run.counts.left_out) == (60, 55, 2, 3)
    (sides,) = run.totals
    assert (str(sides.source.net), str(sides.source.tax), str(sides.source.gross)) == ("2837.64", "463.04", "3300.68")
    assert (str(sides.books.net), str(sides.books.tax), str(sides.books.gross)) == ("2837.78", "462.90", "3300.68")
    documents = {document.order_number: document for document in carried.calls.documents()}
    for number, figures in wanted["odd"].items():
        found = documents[number]
        met = {"net": found.net, "tax": found.tax, "gross": found.gross, "rounding": found.difference}
        assert {name: str(value) for name, value in met.items()} == figures, number
    states = {row.number: row.state for row in carried.calls.crossings()}
    assert {number: states[number] for number in wanted["states"]} == wanted["states"]


def test_the_books_agree_by_their_own_account(carried: World) -> None:
    """One posted invoice per order, contacts once, totals to the penny."""
    invoices = carried.invoices()
    assert len({invoice["reference"] for invoice in invoices}) == len(invoices) == 55
    assert {invoice["state"] for invoice in invoices} == {"posted"}
    emails = [contact["email"].lower() for contact in carried.books()["contact"] if contact["email"]]
    assert len(emails) == len(set(emails)) == 15


def test_two_orders_of_one_new_buyer_make_one_contact(carried: World) -> None:
    """In the same second, with the e-mail in two spellings."""
    contacts = {invoice["order"]: invoice["contact"] for invoice in carried.invoices()}
    assert contacts["MW-10024"] == contacts["MW-10025"]


def test_a_guest_without_an_email_goes_to_the_house_contact(carried: World) -> None:
    """WEB-GUEST, which was there before us."""
    (house,) = [contact for contact in carried.books()["contact"] if contact.get("code") == "WEB-GUEST"]
    contacts = {invoice["order"]: invoice["contact"] for invoice in carried.invoices()}
    assert contacts["MW-10021"] == house["id"]


def test_the_penny_stands_on_the_rounding_account_outside_tax(carried: World) -> None:
    """Three lines of 9.99: three pennies, on one line, with its reason."""
    spread = crossing(carried, "MW-10006")
    (document,) = spread.documents
    *_, rounding = document.record["document"]["lines"]
    assert (rounding["kind"], rounding["account"], rounding["tax_code"], rounding["net"]) == (
        "rounding", "8200", "OUT", "0.03",
    )  # fmt: skip
    reason = spread.reasons[-1]
    assert (reason["target"], reason["rule"]) == ("/documents/0/lines/4/net", "/penny/goes_to")


def test_every_amount_can_be_traced_to_its_sources(carried: World) -> None:
    """The reasons of a discounted line add up to its net."""
    spread = crossing(carried, "MW-10009")
    reason = next(one for one in spread.reasons if one["target"] == "/documents/0/lines/0/net")
    assert {part["source"]: part["amount"] for part in reason["allocated"]} == {
        "/lines/0/amount": "15.97", "/discounts/0/amount": "-3.34",
    }  # fmt: skip
    assert reason["text"] == "The price of 18.50, less a discount of 3.34, less the tax of 2.53 inside it, is 12.63."


def test_figures_and_people_are_kept_apart(carried: World) -> None:
    """Erasing the buyer leaves snapshot, checksum and totals as they were."""
    before = crossing(carried, "MW-10003")
    assert before.buyer["name"] == "Aoife O'Driscoll"
    with psycopg.connect(carried.stack.environment["DATABASE_URL"]) as db:
        db.execute("UPDATE carriage_personaldata SET sealed = NULL, erased_at = now() WHERE snapshot_id = "
                   "(SELECT snapshot_id FROM carriage_crossing WHERE id = %s)", [before.id])  # fmt: skip
        # Of this client alone: others of the same database may have notes of their people in their findings.
        of_world = "WHERE workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)"
        everything = "".join(
            str(db.execute(f"SELECT {what} {of_world}", [carried.slug]).fetchall())
            for what in ("content FROM carriage_snapshot", "planned, findings FROM carriage_crossing",
                         "planned, settled, record FROM carriage_document", "* FROM carriage_contactlink")
        )  # fmt: skip
        everything += str(
            db.execute(
                "SELECT sent, answered FROM carriage_exchange WHERE connection_id IN "
                f"(SELECT id FROM connections_connection {of_world})", [carried.slug],
            ).fetchall()
        )  # fmt: skip
    assert "MW-10003" in everything
    assert "Driscoll" not in everything
    assert "@" not in everything
    after = crossing(carried, "MW-10003")
    assert (after.buyer, after.source_checksum, after.gross) == (None, before.source_checksum, before.gross)


def test_running_again_makes_nothing_twice(small: World) -> None:
    """The overlap is read again and recognised."""
    small.run()
    before = small.books()
    second = small.run()
    assert second.counts.carried == 0
    assert second.counts.unchanged == second.counts.read > 0
    assert small.books() == before


def test_only_one_run_at_a_time(small: World) -> None:
    """The second is told which one is under way."""
    small.misbehave("shop", {"call": "orders", "kind": "latency", "seconds": 1})
    first = small.calls.bridge(BRIDGE).run()
    with pytest.raises(Conflict) as caught:
        small.calls.bridge(BRIDGE).run()
    assert (caught.value.problem.model_extra or {})["run"] == first.id
    assert small.ended(first).counts.carried == FEW


def test_only_what_is_new_is_read(small: World) -> None:
    """After the first run, one new order is read, with those inside the overlap."""
    small.run()
    late = shop_order("MW-10003", id=50_900, reference="MW-10900", placed="2026-10-31T19:55:00+00:00",
                      last_change="2026-10-31T19:56:00+00:00")  # fmt: skip
    small.put_orders(late)
    second = small.run()
    assert (second.counts.read, second.counts.carried) == (2, 1)
    assert crossing(small, "MW-10900").state == "carried"


def test_a_document_that_was_written_late_is_not_missed(world: World) -> None:
    """One that appears with an older time of change, inside the overlap, is still read."""
    world.run()
    newest = datetime.fromisoformat("2026-10-31T19:44:00+00:00")
    late = shop_order(
        "MW-10003", id=50_901, reference="MW-10901", last_change=(newest - timedelta(minutes=9)).isoformat()
    )
    world.put_orders(late)
    assert world.run().counts.carried == 1


def test_an_order_that_is_paid_later_crosses_then(world: World) -> None:
    """Left out first, carried after its change."""
    world.run()
    world.put_orders(changed_later("MW-10043", state="paid"))
    assert world.run().counts.carried == 1
    assert crossing(world, "MW-10043").documents[0].state == "proved"


def test_a_change_that_does_not_matter_to_the_books_is_no_change(small: World) -> None:
    """A paid order that is completed stays as it was posted."""
    small.run()
    invoices = small.invoices()
    small.put_orders(changed_later("MW-10003", state="completed"))
    assert small.run().counts.carried == 1
    assert crossing(small, "MW-10003").state == "carried"
    assert small.invoices() == invoices


def test_an_order_that_changed_after_posting_is_held_by_rule(small: World) -> None:
    """By rule, with the invoice it had become; the books are not touched."""
    calls = small.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(with_holds(rulebook_text())).number)
    small.run()
    invoices = small.invoices()
    small.put_orders(changed_later("MW-10003", state="cancelled"))
    assert small.run().counts.held == 1
    found = crossing(small, "MW-10003")
    assert (found.state, found.cause) == ("held", "source-changed")
    assert found.documents[0].books_number in found.findings[0].text
    assert small.invoices() == invoices
    said = {one.what: (one.before, one.after) for one in small.calls.crossing(found.id).changes}
    assert said == {"status": ("paid", "cancelled")}


def test_a_changed_rulebook_does_not_change_what_was_posted(small: World) -> None:
    """A released document is planned under the version it was posted with."""
    small.run()
    calls = small.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(rulebook_text().replace('sales: "4000"', 'sales: "4100"')).number)
    small.put_orders(changed_later("MW-10003", state="completed"))
    small.run()
    found = crossing(small, "MW-10003")
    assert (found.state, found.rulebook) == ("carried", 1)


def test_drafts_are_left_to_be_looked_over(small: World) -> None:
    """By rule; proved as drafts, and the penny settled on them."""
    calls = small.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(rulebook_text().replace("arrive: posted", "arrive: draft")).number)
    assert small.run().counts.carried == FEW
    assert {invoice["state"] for invoice in small.invoices()} == {"draft"}
    document = crossing(small, "MW-10006").documents[0]
    assert (document.state, document.books_number, document.difference) == ("drafted", "", Decimal("0.03"))
    assert document.proved_at is not None


def test_a_penny_over_the_allowance_is_held_as_a_draft_and_released_by_rule(small: World) -> None:
    """The draft waits in the books; a wider rule releases it, and it stands there once."""
    calls = small.calls.bridge(BRIDGE)
    strict = rulebook_text().replace("allowance: 0.05", "allowance: 0.02")
    calls.publish_rulebook(calls.write_rulebook(strict).number)
    assert small.run().counts.held == 1
    found = crossing(small, "MW-10006")
    assert (found.cause, found.documents[0].state) == ("penny-over-allowance", "held")
    assert "+0.03 is over the allowance of 0.02" in found.findings[0].text
    calls.publish_rulebook(calls.write_rulebook(rulebook_text()).number)
    assert small.calls.release(cause="penny-over-allowance") == 1
    small.settled()
    assert crossing(small, "MW-10006").state == "carried"
    assert [invoice["state"] for invoice in small.invoices() if invoice["order"] == "MW-10006"] == ["posted"]


def test_rules_that_changed_under_a_held_draft_make_it_anew(small: World) -> None:
    """The old draft is voided, not left behind."""
    calls = small.calls.bridge(BRIDGE)
    strict = rulebook_text().replace("allowance: 0.05", "allowance: 0.00")
    calls.publish_rulebook(calls.write_rulebook(strict).number)
    small.run()
    other = rulebook_text().replace('shipping: "4100"', 'shipping: "4000"')
    calls.publish_rulebook(calls.write_rulebook(other).number)
    small.calls.release(cause="penny-over-allowance")
    small.settled()
    found = [invoice for invoice in small.books()["invoice"] if invoice["order"] == "MW-10003"]
    assert [invoice["state"] for invoice in found] == ["void", "posted"]
    assert {line["account"] for line in found[1]["lines"]} == {"4000", "8200"}


def test_what_was_sent_and_answered_is_kept(small: World) -> None:
    """Also of a draft that was voided and made anew; no person is named in it."""
    calls = small.calls.bridge(BRIDGE)
    strict = invoices_alone().replace("allowance: 0.05", "allowance: 0.00")
    calls.publish_rulebook(calls.write_rulebook(strict).number)
    small.run()
    mended = invoices_alone().replace('shipping: "4100"', 'shipping: "4000"')
    calls.publish_rulebook(calls.write_rulebook(mended).number)
    small.calls.release(cause="penny-over-allowance")
    small.settled()
    reference = "INK:web-shop:50002:invoice:1"
    with psycopg.connect(small.stack.environment["DATABASE_URL"]) as db:
        rows = db.execute(
            "SELECT e.call, e.sent->>'external_reference', e.answered->>'standing', e.failure FROM carriage_exchange e "
            "JOIN people_workspace w ON w.id = e.workspace_id "
            "WHERE e.external_reference = %s AND w.slug = %s ORDER BY e.id",
            [reference, small.slug],
        ).fetchall()
    assert rows == [
        ("create", reference, "draft", ""),
        ("void", None, "void", ""),
        ("create", reference, "draft", ""),
        ("amend", reference, "draft", ""),
        ("post", None, "posted", ""),
    ]


@pytest.mark.parametrize(
    ("change", "finding"),
    [
        ({"basket": [], "tax": "0.66", "total": "3.95"}, "SRC-E001"),
        ({"total": "-13.94"}, "SRC-E002"),
        ({"total": "14.94"}, "SRC-E007"),
        ({"total": "a lot"}, "SRC-E010"),
        ({"basket": "none"}, "SRC-E010"),
    ],
)
def test_a_bad_order_is_held_and_the_others_are_carried(small: World, change: dict[str, Any], finding: str) -> None:
    """A clear finding, nothing lost."""
    small.put_orders(shop_order("MW-10003", **change))
    run = small.run()
    assert (run.counts.read, run.counts.carried, run.counts.held) == (FEW, FEW - 1, 1)
    found = crossing(small, "MW-10003")
    assert (found.state, found.cause) == ("held", "source-invalid")
    assert finding in [one.id for one in found.findings]
    assert "MW-10003" in found.findings[0].text


def test_two_contacts_with_one_email_are_a_question_for_a_person(small: World) -> None:
    """Not a coin toss; merged in the books and released, the order crosses."""
    rpc_contacts = [{"code": "", "name": name, "email": "rhodri.pugh@gwlan.example"} for name in ("One", "Two")]
    HTTP.put(f"{small.stack.erp}/{small.slug}/control/contents", json={"contacts": rpc_contacts}).raise_for_status()
    run = small.run()
    held = list(small.calls.crossings(cause="customer-unclear"))
    assert run.counts.held == len(held)
    assert held
    assert small.calls.crossing(held[0].id).findings[0].text.startswith("The books have 2 contacts")


def test_a_page_that_is_cut_half_way_is_read_again(small: World) -> None:
    """The first page stays, the second is tried again, and everything arrives once."""
    small.misbehave("shop", {"call": "orders", "kind": "cut", "skip": 1, "times": 2})
    run = small.run()
    assert (run.state, run.counts.read, run.counts.carried) == ("ended", FEW, FEW)
    assert len(small.invoices()) == FEW


def test_a_shop_that_stays_away_fails_the_run_with_its_reason(small: World) -> None:
    """Nothing is lost: the next run reads on from where the last one got to."""
    small.misbehave("shop", {"call": "orders", "kind": "broken", "times": 99, "skip": 1})
    run = small.calls.bridge(BRIDGE).run()
    waits = wait_for(lambda: small.calls.run(run.id).waits, seconds=20, what="what it waits for")
    assert (waits.documents, waits.in_words()[:26]) == (0, "Waits: Marrowby web shop: ")
    assert waits.next_try_at > run.started_at
    failed = small.ended(run)
    assert (failed.state, failed.waits) == ("failed", None)
    assert failed.trouble.startswith("Marrowby web shop: ")
    assert "failed with status 500" in failed.trouble
    small.misbehave("shop")
    small.run()
    assert len(small.invoices()) == FEW


def test_a_run_ends_although_a_document_was_carried_while_it_read(small: World) -> None:
    """A document still waits when the next run looks, and is carried before that run has written it down."""
    small.misbehave("erp", {"call": "invoices.search", "kind": "broken", "times": 999})
    first = small.run()
    assert first.counts.waiting > 0
    waits = small.calls.run(first.id).waits
    assert waits is not None
    assert waits.documents == first.counts.waiting
    said = rf"{waits.documents} documents wait: .* failed with status 500; next try \d\d:\d\d:\d\d$"
    assert re.match(said, waits.in_words())
    waiting = crossing(small, "MW-10003").id
    with psycopg.connect(small.stack.environment["DATABASE_URL"]) as db:
        # Whoever writes the same entry waits for us: the next run stands still between its look and its writing.
        db.execute(
            "INSERT INTO carriage_runentry (workspace_id, run_id, crossing_id, outcome) "
            "SELECT workspace_id, newest.run + n, crossing.id, 'pending' FROM carriage_crossing AS crossing, "
            # A timetable of another test may start a run of its own before ours.
            "(SELECT nextval('carriage_run_id_seq') AS run) AS newest, generate_series(1, 9) AS n "
            "WHERE crossing.id = %s",
            [waiting],
        )
        second = small.calls.bridge(BRIDGE).run()
        wait_for(lambda: _blocked(db) or None, seconds=20, what="the run's standstill")
        small.misbehave("erp")
        wait_for(lambda: small.calls.crossing(waiting).state == "carried" or None, seconds=20, what="the document")
        db.rollback()
    assert small.ended(second).state == "ended"
    small.settled()
    assert len(small.invoices()) == FEW


def _blocked(db: psycopg.Connection[tuple[int]]) -> bool:
    query = "SELECT count(*) FROM pg_stat_activity WHERE pg_backend_pid() = ANY(pg_blocking_pids(pid))"
    (blocked,) = db.execute(query).fetchone() or (0,)
    return blocked > 0


def test_books_that_are_away_for_a_while_hold_nothing(small: World) -> None:
    """Documents wait, one asks for all of them whether the books are back, and all go on by themselves."""
    small.misbehave("erp", {"call": "invoices.search", "kind": "broken", "times": 8})
    small.run()
    small.settled()
    assert len(small.invoices()) == FEW
    assert {row.state for row in small.calls.crossings()} == {"carried"}


def test_books_that_are_busy_are_given_time(small: World) -> None:
    """429 is no failure."""
    small.misbehave("erp", {"call": "invoices.create", "kind": "busy", "seconds": 1, "times": 10})
    small.run()
    small.settled()
    assert len(small.invoices()) == FEW


def test_a_locked_period_is_held_with_the_books_own_reason(small: World) -> None:
    """Unlocked and released, it crosses."""
    small.change_books(locked_until="2026-10-02")
    assert small.run().counts.held == 3
    held = list(small.calls.crossings(cause="period-locked"))
    assert "locked up to 2026-10-02" in small.calls.crossing(held[0].id).findings[-1].text
    small.change_books()
    assert small.calls.release(cause="period-locked") == 3
    small.settled()
    assert len(small.invoices()) == FEW


def test_an_account_that_has_gone_holds_all_until_it_is_back(small: World) -> None:
    """The rulebook is held against what the books have now, not what they had."""
    accounts = [{**account, "code": "4001"} if account["code"] == "4000" else account
                for account in facts()["books"]["accounts"]]  # fmt: skip
    HTTP.put(f"{small.stack.erp}/{small.slug}/control/contents", json={"accounts": accounts}).raise_for_status()
    run = small.run()
    assert run.counts.carried == 0
    found = crossing(small, "MW-10003")
    assert (found.cause, found.findings[0].id) == ("reference-missing", "REF-E001")
    assert small.invoices() == []


def test_a_document_changed_in_the_books_before_the_proof_differs(small: World) -> None:
    """The proof reads what the books hold, not what they answered."""
    small.misbehave("erp", {"call": "invoices.post", "kind": "hold after", "times": 1})
    run = small.calls.bridge(BRIDGE).run()
    wait_for(lambda: small.misbehaved("erp")[0]["waiting"] or None, seconds=20, what="the held post")
    posted = [invoice for invoice in small.invoices() if invoice["state"] == "posted"]
    assert posted
    small.misbehave("erp")
    assert small.ended(run).counts.carried == FEW


def test_the_period_ties_with_every_difference_named(carried: World) -> None:
    """Shop 60, books 55: three left out, two held; the pennies between net and tax."""
    (totals,) = carried.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    left_out, held = totals.part("left out"), totals.part("held")
    assert (totals.source.count, totals.books.count, left_out.count, held.count) == (60, 55, 3, 2)
    assert (totals.source.gross, totals.books.gross) == (Decimal("3466.60"), Decimal("3300.68"))
    assert (left_out.gross, held.gross) == (Decimal("94.55"), Decimal("71.37"))
    penny, taxed = totals.part("rounding by rule"), totals.part("tax computed otherwise by the books")
    assert (penny.net, penny.tax, taxed.net, taxed.tax) == (Decimal("-0.14"), 0, 0, Decimal("0.14"))
    assert (totals.unexplained.count, totals.unexplained.net, totals.unexplained.gross) == (0, 0, 0)


def test_a_part_of_a_period_and_an_empty_one(carried: World) -> None:
    """By the company's own dates."""
    (day,) = carried.calls.tie_out(first=date(2026, 10, 13), last=date(2026, 10, 13)).sales
    assert (day.source.count, day.books.gross) == (3, Decimal("93.33"))
    assert carried.calls.tie_out(first=date(2025, 1, 1), last=date(2025, 1, 31)).rows == []


@pytest.mark.parametrize(
    ("filters", "numbers"),
    [
        ({"state": ["held"]}, {"MW-10031", "MW-10034"}),
        ({"state": ["held", "left out"]}, {"MW-10031", "MW-10034", "MW-10043", "MW-10046", "MW-10060"}),
        ({"cause": "tax-class-unmapped"}, {"MW-10031", "MW-10034"}),
        ({"placed_from": "2026-10-30"}, {"MW-10059", "MW-10060"}),
        ({"search": "10049"}, {"MW-10049"}),
        ({"placed_from": "2026-10-13", "placed_to": "2026-10-13"}, {"MW-10024", "MW-10025", "MW-10026"}),
    ],
)
def test_lists_can_be_narrowed(carried: World, filters: dict[str, Any], numbers: set[str]) -> None:
    """By state, cause, dates and numbers."""
    assert {row.number for row in carried.calls.crossings(**filters)} == numbers


def test_lists_are_sorted_and_paged_without_gaps(carried: World) -> None:
    """Page after page, each once, in order."""
    rows = list(carried.calls.crossings(sort="gross", limit=7))
    amounts = [row.gross for row in rows]
    assert amounts == sorted(amounts)  # type: ignore[type-var]
    assert len({row.id for row in rows}) == 60
    assert len(list(carried.calls.crossings(differing="true"))) == 11
    (run,) = carried.calls.runs()
    assert len(list(carried.calls.crossings(run=run.id, outcome="left out"))) == 3


def test_the_trail_tells_who_did_what(carried: World) -> None:
    """Connections, rules, lanes, runs; newest first."""
    actions = [entry.action for entry in carried.calls.trail()]
    assert actions[0] == "run.started"
    assert {"connection.created", "bridge.created", "rulebook.published", "lane.on", "workspace.opened"} <= set(actions)
