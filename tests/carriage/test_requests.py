"""Requests for payment through the service: invoices of the books asked for at the provider, paid, settled."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from html import unescape
from typing import Any

import httpx
import psycopg
import pytest

from inkwell_bridge.client import Conflict
from inkwell_bridge.client.models import Crossing, PaymentRequest, Run
from inkwell_bridge.core.books import Application, Payment
from inkwell_bridge.demo import office
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_payouts import entry, findings, payout, postings
from tests.support.ends import BENCHES
from tests.support.world import HTTP, World, new_world, wait_for

BRIDGE = "weirgate-to-uk-books"
LANES = ("requests", "request_payments")
FIRST, SECOND, ON_FILE, BY_BANK = "SI-09001", "SI-09002", "SI-09003", "SI-09004"
Json = dict[str, Any]
NOVEMBER = {"first": date(2026, 11, 1), "last": date(2026, 11, 30)}


@pytest.fixture
def asking(stack: Stack, owner: str) -> World:
    """See ``asking_world``."""
    return asking_world(stack, owner)


def asking_world(stack: Stack, owner: str, *, rules: str = "") -> World:
    """Four invoices that the office typed in, 480.00, 384.60, 96.00 to be charged on file, and 1,250.40 by bank."""
    world = new_world(stack, owner)
    world.put("erp", contacts=facts()["old_contacts"])
    world.put("payment-provider", reset=True, company=facts()["weirgate"])
    demo_client.enter_office_invoices(stack.standin, world=world.slug)
    demo_client.set_up_payouts(stack, world.calls, world=world.slug)
    bridge = world.calls.bridge(BRIDGE)
    if rules:
        bridge.publish_rulebook(bridge.write_rulebook(rules).number)
    bridge.switch_lane("payouts", on=False)
    for lane in LANES:
        bridge.switch_lane(lane, on=True)
    return world


def with_rules(before: str, after: str) -> str:
    """The demo's rules, but for one line."""
    text = rulebook_text(BRIDGE)
    assert before in text
    return text.replace(before, after)


def run(world: World) -> Run:
    """Run the bridge to its end."""
    return world.run(BRIDGE)


def request(world: World, invoice: str = FIRST) -> PaymentRequest:
    """The request of an invoice."""
    (found,) = world.calls.requests.all(invoice=invoice)
    return found


def at_provider(world: World, invoice: str = FIRST) -> Json:
    """The same, as the provider has it; there is one, whatever happened."""
    (found,) = [one for one in world.held_by("payment-provider").get("request", []) if one["bill"] == invoice]
    return found


def pay(world: World, invoice: str = FIRST, **asked: str) -> None:
    """Open the link as the buyer does, go on to the provider and pay there."""
    found = re.search(r'class="pay" href="([^"]+)"', opened(world, invoice).text)
    assert found is not None
    HTTP.post(unescape(found[1]), data=asked).raise_for_status()


def opened(world: World, invoice: str = FIRST) -> httpx.Response:
    """What the link leads to."""
    return HTTP.get(request(world, invoice).link)


def says(world: World, invoice: str = FIRST) -> str:
    """What the page says first."""
    found = re.search(r"<h1>([^<]*)</h1>", opened(world, invoice).text)
    assert found is not None
    return unescape(found[1])


def come_in(world: World, minor: int, invoice: str = FIRST) -> None:
    """Let money come in on a request, whatever it still asks for."""
    world.put("payment-provider", came_in=[{"ref": at_provider(world, invoice)["ref"], "minor": minor}])


def in_books(world: World, invoice: str = FIRST) -> Json:
    """The invoice there."""
    return next(one for one in world.books()["invoice"] if one["number"] == invoice)


def open_there(world: World, invoice: str = FIRST) -> Decimal:
    """What is open of it by the books' own account."""
    there = in_books(world, invoice)
    return Decimal(there["gross"]) - sum((Decimal(one["amount"]) for one in there.get("settled_by", [])), Decimal(0))


def receipts(world: World) -> list[tuple[str, str, str]]:
    """The posted receipts: day, account, amount."""
    return [(one["date"], one["account"], one["amount"]) for one in world.books().get("receipt", [])
            if one["state"] == "posted"]  # fmt: skip


def crossings(world: World, kind: str = "request_payments") -> list[Crossing]:
    """What there is of a kind."""
    return list(world.calls.crossings(bridge=BRIDGE, kind=kind))


def test_invoices_are_asked_for_by_the_rules(asking: World) -> None:
    """Three of four; each at the provider with what is open, its link and the provider's number on the invoice."""
    counts = run(asking).counts
    assert (counts.read, counts.carried, counts.left_out, counts.held) == (4, 3, 1, 0)
    assert [(one.invoice, f"{one.amount}") for one in asking.calls.requests.all()] == [
        (ON_FILE, "96.00"), (SECOND, "384.60"), (FIRST, "480.00")]  # fmt: skip
    assert [one.invoice for one in asking.calls.requests.all(standing="open")][-2:] == [SECOND, FIRST]
    there = at_provider(asking)
    assert (there["minor"], there["money"], there["says"], there["dropped"]) == (
        48000,
        "GBP",
        "Invoice SI-09001",
        False,
    )
    assert there["closes"] == "2027-02-02"
    noted = in_books(asking)["further"]
    assert (noted["payment_link"], noted["payment_request"]) == (request(asking).link, there["request"])
    (left,) = [one for one in crossings(asking, "requests") if one.state == "left out"]
    assert (left.number, left.left_out_by) == (BY_BANK, "/requests/only")
    # What we wrote on it is no change, and nothing is made a second time; the receipt of one is news once.
    for _ in range(2):
        run(asking)
    assert run(asking).counts.carried == 0
    assert len(asking.held_by("payment-provider")["request"]) == 3


def test_a_buyer_pays_and_the_invoice_is_settled(asking: World) -> None:
    """480.00 on the second of November, on the clearing account; the provider's number stands on the invoice."""
    run(asking)
    assert says(asking) == "Pay this invoice"
    pay(asking)
    assert says(asking) == "Paid"
    run(asking)
    assert ("2026-11-02", "1250", "480.00") in receipts(asking)
    assert open_there(asking) == 0
    (receipt,) = [one for one in asking.books()["receipt"] if one["amount"] == "480.00"]
    assert receipt["contact"] == in_books(asking)["contact"]
    assert in_books(asking)["further"]["paid_with"] == receipt["transaction"]
    found = request(asking)
    assert (found.standing, f"{found.paid}") == ("paid", "480.00")
    # Both are one story: the invoice's page names its payment, and the payment its invoice.
    spread = asking.calls.crossing(found.crossing)
    assert [(one.kind, f"{one.gross}") for one in spread.following] == [("request_payments", "480.00")]
    run(asking)
    run(asking)
    assert [one[2] for one in receipts(asking)].count("480.00") == 1


def test_what_is_on_file_is_charged_once(asking: World) -> None:
    """At once, without a page; and where the card declines, a page takes its place."""
    run(asking)
    run(asking)
    assert ("2026-11-02", "1250", "96.00") in receipts(asking)
    assert (says(asking, ON_FILE), request(asking, ON_FILE).standing) == ("Paid", "paid")
    assert [one["minor"] for one in asking.held_by("payment-provider")["taking"]] == [9600]


def test_a_card_that_declines_leaves_a_page(asking: World) -> None:
    """The buyer pays by hand."""
    contact = str(in_books(asking, ON_FILE)["contact"])
    asking.put("payment-provider", reset=True, company=facts()["weirgate"], clock=facts()["weirgate"]["clock"],
               wallets=[{"who": contact, "declines": True}])  # fmt: skip
    run(asking)
    assert (request(asking, ON_FILE).standing, says(asking, ON_FILE)) == ("open", "Pay this invoice")
    pay(asking, ON_FILE)
    run(asking)
    assert receipts(asking) == [("2026-11-02", "1250", "96.00")]


def test_in_parts_by_link_and_by_bank(asking: World) -> None:
    """100.00 by link, 84.60 by bank: 200.00 are left, and the request asks for 300.00 in all, 100.00 of it paid."""
    run(asking)
    pay(asking, SECOND, minor="10000")
    run(asking)
    assert (request(asking, SECOND).standing, open_there(asking, SECOND)) == ("part paid", Decimal("284.60"))
    by_bank(asking, SECOND, "84.60")
    run(asking)
    there = at_provider(asking, SECOND)
    assert (there["minor"], there["came_in"], open_there(asking, SECOND)) == (30000, 10000, Decimal("200.00"))
    assert "200.00 GBP" in opened(asking, SECOND).text
    pay(asking, SECOND)
    run(asking)
    assert open_there(asking, SECOND) == 0
    assert request(asking, SECOND).standing == "paid"
    assert sorted(one[2] for one in receipts(asking) if one[1] == "1250") == ["100.00", "200.00", "96.00"]


def by_bank(world: World, invoice: str, amount: str) -> None:
    """Somebody enters money of the bank's against an invoice at a screen of the books."""
    books, there = BENCHES["erp"].books(world), in_books(world, invoice)
    money = Payment(external_reference=f"BANK {invoice} {amount}", date="2026-11-03", currency="GBP", account="1200",  # type: ignore[arg-type]
                    amount=amount, applied=(Application(invoice_id=str(there["id"]), amount=amount),))  # type: ignore[arg-type]  # fmt: skip
    books.post(books.create(money, contact_id=str(there["contact"]), key=""))


def test_what_is_paid_by_bank_is_asked_for_no_more(asking: World) -> None:
    """The page says so politely, and nothing can be paid at the provider."""
    run(asking)
    page = re.search(r'class="pay" href="([^"]+)"', opened(asking).text)
    by_bank(asking, FIRST, "480.00")
    run(asking)
    assert (at_provider(asking)["dropped"], request(asking).standing) == (True, "cancelled")
    assert says(asking) == "There is nothing to pay"
    assert page is not None
    assert HTTP.post(unescape(page[1])).status_code == 410
    assert asking.held_by("payment-provider")["taking"] == [
        one for one in asking.held_by("payment-provider")["taking"] if one["bill"] == ON_FILE]  # fmt: skip


def test_a_credit_note_in_the_books_lowers_what_is_asked(asking: World) -> None:
    """120.00 taken back of 480.00: 360.00; all of it, and the link refuses."""
    run(asking)
    credit(asking, FIRST, "100.00")
    run(asking)
    assert (at_provider(asking)["minor"], at_provider(asking)["dropped"]) == (36000, False)
    assert "360.00 GBP" in opened(asking).text
    credit(asking, FIRST, "300.00")
    run(asking)
    assert (at_provider(asking)["dropped"], says(asking)) == (True, "There is nothing to pay")


def credit(world: World, invoice: str, net: str) -> None:
    """Somebody credits part of an invoice in the books; a fifth of tax comes on top."""
    there = in_books(world, invoice)
    line = {**there["lines"][0], "unit_price": net, "quantity": "1"}
    rpc = BENCHES["erp"].books(world)._rpc  # type: ignore[attr-defined]
    words = {"date": "2026-11-03", "currency": "GBP", "reference": f"CN-{net}", "order": "", "link": "", "memo": "",
             "further": {}, "lines": [line], "contact": there["contact"], "credits": invoice}  # fmt: skip
    rpc.change("credit_notes.post", id=rpc.change("credit_notes.create", **words)["id"])


def test_what_comes_beyond_the_invoice_is_owed_to_the_buyer(asking: World) -> None:
    """500.00 on 480.00: a receipt that settles it, and 20.00 on the account of what is owed."""
    run(asking)
    come_in(asking, 50_000)
    assert says(asking) == "Paid"
    run(asking)
    assert ("2026-11-02", "1250", "480.00") in receipts(asking)
    (journal,) = [one for one in asking.books()["journal"] if one["state"] == "posted"]
    assert postings(journal) == [("1250", "20.00"), ("2340", "-20.00")]
    (found,) = [one for one in crossings(asking) if f"{one.gross}" == "500.00"]
    assert [one.id for one in asking.calls.crossing(found.id).findings] == ["REQUEST-N001"]


def test_by_bank_and_by_link_at_the_same_time(asking: World) -> None:
    """450.00 by bank, and 100.00 by link that nobody has read yet: the provider will not lower it to 30.00, and it goes
    on by itself once they are; 70.00 are owed to the buyer."""
    run(asking)
    bridge = asking.calls.bridge(BRIDGE)
    bridge.switch_lane("request_payments", on=False)
    come_in(asking, 10_000)
    by_bank(asking, FIRST, "450.00")
    run(asking)
    (held,) = [one for one in crossings(asking, "requests") if one.state == "held"]
    assert (held.number, held.cause) == (FIRST, "sales-side-refused")
    bridge.switch_lane("request_payments", on=True)
    run(asking)
    asking.settled()
    run(asking)
    assert [one.state for one in crossings(asking, "requests") if one.number == FIRST] == ["carried"]
    assert (at_provider(asking)["minor"], request(asking).standing, open_there(asking)) == (10_000, "paid", 0)
    assert ("2026-11-02", "1250", "30.00") in receipts(asking)
    (journal,) = [one for one in asking.books()["journal"] if one["state"] == "posted"]
    assert postings(journal) == [("1250", "70.00"), ("2340", "-70.00")]


def test_what_another_bridge_asked_for_is_left_to_it(asking: World) -> None:
    """Two bridges at one provider read each payment both; the one that asked for it posts it."""
    run(asking)
    calls = asking.calls
    calls.create_bridge(slug="second", name="Second", source="weirgate", books="uk-books", company="marrowby-uk")
    second = calls.bridge("second")
    text = with_rules('invoice.fields["payment"] in ["by link", "on file"]', 'invoice.fields["payment"] == "nowhere"')
    second.publish_rulebook(second.write_rulebook(text).number)
    second.switch_lane("request_payments", on=True)
    pay(asking)
    asking.run("second")
    assert [(one.state, one.left_out_by) for one in calls.crossings(bridge="second")] == [
        ("left out", "planner:paid-on-a-request-of-another-bridge")] * 2  # fmt: skip
    run(asking)
    assert sorted(one[2] for one in receipts(asking)) == ["480.00", "96.00"]


def test_paid_twice_at_the_same_moment(asking: World) -> None:
    """One run reads both: 480.00 settle it, the other 480.00 are owed, whichever goes first."""
    run(asking)
    come_in(asking, 48_000)
    come_in(asking, 48_000)
    run(asking)
    wait_for(lambda: (len(crossings(asking)) == 3 and not any(asking.calls.crossings(state=["waiting"]))) or None,
             seconds=30, what="both payments")  # fmt: skip
    assert [one[2] for one in receipts(asking)].count("480.00") == 1
    (journal,) = [one for one in asking.books()["journal"] if one["state"] == "posted"]
    assert postings(journal) == [("1250", "480.00"), ("2340", "-480.00")]
    assert open_there(asking) == 0


def test_too_much_without_an_account_for_it_is_held_until_there_is_one(stack: Stack, owner: str) -> None:
    """With what is missing; nothing of it is posted before."""
    world = asking_world(stack, owner, rules=with_rules('  overpaid: "2340"\n', ""))
    run(world)
    come_in(world, 50_000)
    run(world)
    (held,) = [one for one in crossings(world) if one.state == "held"]
    assert (held.cause, [one.id for one in world.calls.crossing(held.id).findings]) == (
        "rule-missing",
        ["REQUEST-E003"],
    )
    assert "480.00" not in [one[2] for one in receipts(world)]
    bridge = world.calls.bridge(BRIDGE)
    bridge.publish_rulebook(bridge.write_rulebook(rulebook_text(BRIDGE)).number)
    world.calls.release(crossings=[held.id])
    world.settled()
    assert ("2026-11-02", "1250", "480.00") in receipts(world)


def test_cancelled_and_taken_up_again_by_hand(asking: World) -> None:
    """The link says so at once, the provider a moment later; made again it is the same link."""
    run(asking)
    link = request(asking).link
    cancelled = asking.calls.requests.cancel(request(asking).id, "Pays by bank")
    assert (cancelled.wish, cancelled.note) == ("cancelled", "Pays by bank")
    assert says(asking) == "There is nothing to pay"
    asking.settled()
    assert at_provider(asking)["dropped"] is True
    assert request(asking).standing == "cancelled"
    asking.calls.requests.make(bridge=BRIDGE, invoice=FIRST)
    asking.settled()
    assert (at_provider(asking)["dropped"], request(asking).standing, request(asking).link) == (False, "open", link)
    pay(asking)
    run(asking)
    assert open_there(asking) == 0
    # What is paid cannot be cancelled any more.
    run(asking)
    with pytest.raises(Conflict, match="is paid, so there is nothing to cancel"):
        asking.calls.requests.cancel(request(asking).id)
    assert (says(asking), request(asking).standing) == ("Paid", "paid")
    # Whoever looks later sees who decided what.
    done = [(one.action, one.about) for one in asking.calls.trail() if one.action.startswith("request.")]
    assert done == [("request.made", FIRST), ("request.cancelled", FIRST)]


def test_made_by_hand_though_the_rules_say_no(asking: World) -> None:
    """1,250.40 that were to be paid by bank; asked for twice it is one request."""
    for _ in range(2):
        asking.calls.requests.make(bridge=BRIDGE, invoice=BY_BANK)
        asking.settled()
    found = request(asking, BY_BANK)
    assert (f"{found.amount}", found.standing, found.wish) == ("1250.40", "open", "made")
    assert at_provider(asking, BY_BANK)["minor"] == 125_040
    pay(asking, BY_BANK)
    run(asking)
    assert open_there(asking, BY_BANK) == 0


def test_a_payment_is_heard_of_by_a_signed_call(asking: World) -> None:
    """No run is started: the provider calls, and the receipt is posted."""
    run(asking)
    calls = asking.calls.connection("weirgate")
    calls.register_calls()
    pay(asking)
    wait_for(lambda: open_there(asking) == 0 or None, seconds=30, what="the receipt")
    assert ("2026-11-02", "1250", "480.00") in receipts(asking)


def test_the_payout_clears_what_was_paid_by_link(asking: World) -> None:
    """500.00 on 480.00 less 7.50 of fees: receipt and surplus are one charge there, and the account proves."""
    run(asking)
    come_in(asking, 50_000)
    run(asking)
    (taking,) = [one["taking"] for one in asking.held_by("payment-provider")["taking"] if one["bill"] == FIRST]
    day = "2026-11-03T07:00:00Z"
    charge = entry("charge", 50_000, taking, fee=-750)
    asking.put("payment-provider", payouts=[payout(charge, made=day, altered=day)])
    asking.calls.bridge(BRIDGE).switch_lane("payouts", on=True)
    run(asking)
    assert findings(asking) == []
    asked = asking.calls.clearing.prove(books="uk-books", account="1250", **NOVEMBER)

    def proved() -> Any:
        found = asking.calls.clearing.proof(asked.id)
        return None if found.under_way else found

    proof = wait_for(proved, seconds=30, what="the proof")
    assert (proof.proves, proof.result.amounts["charges"], proof.result.closing) == (
        True,
        Decimal("596.00"),
        Decimal("96.00"),
    )
    assert [(f"{one.amount}", one.number) for one in proof.result.standing.items] == [
        ("96.00", next(one.number for one in crossings(asking) if f"{one.gross}" == "96.00"))]  # fmt: skip
    assert proof.result.standing.not_accounted_for == 0


@pytest.mark.parametrize(("call", "kind"), [("requests.make", "cut"), ("requests.make", "silent"),
                                            ("requests.make", "late"), ("requests.make", "broken"),
                                            ("requests.search", "cut")])  # fmt: skip
def test_a_charge_is_never_made_twice_whatever_fails(asking: World, call: str, kind: str) -> None:
    """The answer is lost, late, or never comes: one request each, and 96.00 were taken once."""
    asking.misbehave("payment-provider", {"call": call, "kind": kind, "times": 3, "seconds": 2.5})
    run(asking)
    asking.settled()
    run(asking)
    assert sorted(one["bill"] for one in asking.held_by("payment-provider")["request"]) == [FIRST, SECOND, ON_FILE]
    assert [one["minor"] for one in asking.held_by("payment-provider")["taking"]] == [9600]
    assert [one[2] for one in receipts(asking)] == ["96.00"]


def test_fields_that_the_books_will_not_take_hold_nothing_up(asking: World) -> None:
    """The request stands; a warning says that nothing was written."""
    asking.change_books(permissions=["read accounts", "read contacts", "write contacts", "post invoices"])
    run(asking)
    assert request(asking).standing == "open"
    (found,) = [one for one in crossings(asking, "requests") if one.number == FIRST]
    assert [one.id for one in asking.calls.crossing(found.id).findings] == ["BACK-W001"]


def test_a_locked_month_takes_the_receipt_on_its_first_open_day(asking: World) -> None:
    """The second of November is closed: the fifth."""
    run(asking)
    asking.change_books(locked_until="2026-11-04")
    pay(asking)
    run(asking)
    assert ("2026-11-05", "1250", "480.00") in receipts(asking)


def test_whom_an_invoice_is_made_out_to_is_kept_apart_and_can_be_erased(asking: World) -> None:
    """Neither list nor page shows it; once erased, the request goes on as it was."""
    asking.put("erp", contacts=[{"code": "C-9", "name": "Ada Loom", "email": "ada@loom.example",
                                 "billing": {"town": "Hawes", "postcode": "DL8 3NT", "country": "GB"}}])  # fmt: skip
    told = office.invoices()[0]
    asking.put("erp", invoices=[{**told, "number": "SI-09009", "code": "C-9"}])
    run(asking)

    def sealed() -> list[bool]:
        with psycopg.connect(asking.stack.environment["DATABASE_URL"]) as database:
            found = database.execute(_SEALED, [asking.slug, "SI-09009"]).fetchall()
        return [one for (one,) in found]

    assert sealed()
    assert all(sealed())
    spread = asking.calls.crossing(request(asking, "SI-09009").crossing)
    assert "ada" not in spread.model_dump_json().lower()
    asking.calls.erase_buyer("ada@loom.example")
    wait_for(lambda: None if any(sealed()) else True, seconds=30, what="the erasure")
    pay(asking, "SI-09009")
    run(asking)
    assert open_there(asking, "SI-09009") == 0


_SEALED = """
    SELECT personal.sealed IS NOT NULL FROM carriage_personaldata AS personal
    JOIN carriage_snapshot AS snapshot ON snapshot.id = personal.snapshot_id
    JOIN people_workspace AS workspace ON workspace.id = snapshot.workspace_id
    WHERE workspace.slug = %s AND snapshot.number = %s AND snapshot.kind = 'requests'
"""


def test_lanes_say_what_they_lack(stack: Stack, owner: str) -> None:
    """Rules that say nothing of requests, and a shop that takes none."""
    without = rulebook_text(BRIDGE).partition("requests:")[0] + "periods:\n  locked: hold\n"
    world = asking_world(stack, owner, rules=without)
    with pytest.raises(Conflict, match=r"Request payments are to cross .* says nothing of requests"):
        world.calls.bridge(BRIDGE).run(lanes=["request_payments"])
    with pytest.raises(Conflict, match="cannot ask for payment: its rulebook says nothing of requests"):
        world.calls.requests.make(bridge=BRIDGE, invoice=FIRST)
    shop = world.calls.bridge("web-shop-to-uk-books")
    text = rulebook_text("web-shop-to-uk-books") + '\nrequests:\n  account: "1250"\n'
    shop.publish_rulebook(shop.write_rulebook(text).number)
    with pytest.raises(Conflict, match="takes no requests for payment"):
        world.calls.requests.make(bridge="web-shop-to-uk-books", invoice=FIRST)
