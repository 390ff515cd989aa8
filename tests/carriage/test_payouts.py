"""Payouts of the payment provider through the service into the books: one journal each, worked out by hand."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client import ApiError
from inkwell_bridge.client.models import Crossing
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import refund
from tests.carriage.test_reading_again import read_again
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

PAYOUTS = "weirgate-to-uk-books"
FIRST, SECOND = "MW-10003", "MW-10006"
WHEN = "2026-10-04T12:00:00+01:00"
Json = dict[str, Any]
# The rules of the demo, without money on its way: what arrives stands on the bank at once.
STRAIGHT = rulebook_text(PAYOUTS).replace('  on_its_way: "1210"            # until the bank\'s statement has it\n', "")


def entry(does: str, minor: int, about: str = "", *, fee: int = 0, tax: int = 0, **fields: Any) -> Json:
    """An entry in the provider's words."""
    return {"entry": f"we-{does}-{about}", "does": does, "about": about, "shop_ref": "", "when": WHEN, "minor": minor,
            "fee": fee, "fee_tax": tax, "left": minor + fee + tax, **fields}  # fmt: skip


def payout(*entries: Json, number: int = 1, **fields: Any) -> Json:
    """A payout of Monday the fifth, which the bank has on the sixth."""
    made = "2026-10-05T07:00:00+01:00"
    return {"payout": f"WP-{number}", "seq": number, "by": "Weirgate", "made": made, "altered": made,
            "lands": "2026-10-06", "money": "GBP", "minor": sum(one["left"] for one in entries),
            "statement_text": f"WEIRGATE WP-{number}", "entries": list(entries), **fields}  # fmt: skip


def paid(number: str) -> tuple[str, int]:
    """The provider's number of an order's money, and its pence."""
    money = shop_order(number)["received"][0]
    return money["transaction"], int(money["sum"].replace(".", ""))


@pytest.fixture
def weirgate(stack: Stack, owner: str) -> World:
    """Two orders of 13.94 and 33.92 in the books, and a provider that paid out nothing yet."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), shop_order(SECOND), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    world.put("payment-provider", reset=True, company=facts()["weirgate"])
    demo_client.set_up_payouts(stack, world.calls, world=world.slug)
    bridge = world.calls.bridge(PAYOUTS)
    bridge.publish_rulebook(bridge.write_rulebook(STRAIGHT).number)
    return world


def journals(world: World) -> list[Json]:
    """The journals that stand posted in the books, by what they say: several are posted at once, in any order."""
    posted = [one for one in world.books().get("journal", []) if one["state"] == "posted"]
    return sorted(posted, key=lambda one: str(one["memo"]))


def postings(journal: Json) -> list[tuple[str, str]]:
    """Each line of a journal: its account, and what is debited (credited below zero)."""
    return [(line["account"], str(Decimal(line["debit"]) - Decimal(line["credit"]))) for line in journal["lines"]]


def became(world: World, number: str = "WP-1") -> Crossing:
    """What a payout became."""
    return next(one for one in world.calls.crossings(bridge=PAYOUTS) if one.number == number)


def findings(world: World, number: str = "WP-1") -> list[str]:
    """What is said of a payout."""
    return [one.id for one in world.calls.crossing(became(world, number).id).findings]


def balance(world: World, account: str) -> Decimal:
    """What stands on an account by receipts, repayments and journals of the books."""
    books = world.books()
    moved = sum((sign * Decimal(one["amount"]) for kind, sign in (("receipt", 1), ("repayment", -1))
                 for one in books.get(kind, []) if one["account"] == account), Decimal(0))  # fmt: skip
    return moved + sum(Decimal(amount) for one in journals(world) for code, amount in postings(one) if code == account)


def test_a_payout_takes_from_clearing_what_receipts_had_put_there(weirgate: World) -> None:
    """13.94 and 33.92 less 0.41 and 0.71 of fees, and 0.08 and 0.14 of tax on them: 46.52 arrive."""
    (first, pence), (second, more) = paid(FIRST), paid(SECOND)
    assert (pence, more, balance(weirgate, "1250")) == (1394, 3392, Decimal("47.86"))
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first, fee=-41, tax=-8),
                                                     entry("charge", 3392, second, fee=-71, tax=-14))])  # fmt: skip
    assert weirgate.run(PAYOUTS).counts.carried == 1
    (journal,) = journals(weirgate)
    assert postings(journal) == [("1250", "-47.86"), ("7500", "1.12"), ("2200", "0.22"), ("1200", "46.52")]
    assert (journal["date"], journal["memo"]) == ("2026-10-06", "Payout WP-1 of Weirgate")
    assert (balance(weirgate, "1250"), balance(weirgate, "1200")) == (0, Decimal("46.52"))
    found = became(weirgate)
    assert (found.kind, found.state, f"{found.gross}") == ("payouts", "carried", "46.52")
    # It is the money of sales that were counted already: the sheet of the month knows nothing of it.
    assert [one.unexplained.gross for one in weirgate.calls.tie_out(**OCTOBER).sales] == [0]
    # Read again it is the same.
    assert weirgate.run(PAYOUTS).counts.carried == 0
    assert len(journals(weirgate)) == 1


def paid_out(world: World, **days: Any) -> dict[str, tuple[str, str]]:
    """Both sides of each kind of entry of the month."""
    return {one.what: (f"{one.source}", f"{one.books}") for one in world.calls.sheet(**(days or OCTOBER)).payouts()}


def test_what_was_paid_out_stands_beside_what_the_books_hold(weirgate: World) -> None:
    """13.94 and 33.92 charged less fees of 1.12 with 0.22 of tax, by both sides; and what is held, or changed in the
    books: 5.00 of an order that nobody knows less a reserve of 1.00, and 7.00 of nobody knows what."""
    (first, _), (second, _) = paid(FIRST), paid(SECOND)
    weirgate.put("payment-provider", payouts=[
        payout(entry("charge", 1394, first, fee=-41, tax=-8), entry("charge", 3392, second, fee=-71, tax=-14)),
        payout(entry("charge", 500, "wg_nobody"), entry("set aside", -100), number=2),
    ])  # fmt: skip
    weirgate.run(PAYOUTS)
    whole = {"Charges and refunds": "52.86", "Fees": "-1.12", "Tax on fees": "-0.22", "Reserves kept": "-1.00",
             "Paid out": "50.52"}  # fmt: skip
    assert {what: source for what, (source, _) in paid_out(weirgate).items()} == whole
    # An order that nobody knows holds its payout.
    there = {"Charges and refunds": "47.86", "Fees": "-1.12", "Tax on fees": "-0.22", "Reserves kept": "0.00",
             "Paid out": "46.52"}  # fmt: skip
    assert {what: books for what, (_, books) in paid_out(weirgate).items()} == there
    (journal, *_) = journals(weirgate)
    # A penny more arrived, and a penny less was a fee.
    other = {"46.52": "46.53", "1.12": "1.11"}
    lines = [{**line, "debit": other.get(line["debit"], line["debit"])} for line in journal["lines"]]
    weirgate.put("erp", edited={"journal": {str(journal["id"]): {"lines": lines}}})
    weirgate.calls.read_again(first=OCTOBER["first"], last=OCTOBER["last"])
    wait_for(lambda: weirgate.calls.still_to_read() == 0 or None, seconds=30, what="reading again")
    weirgate.settled()
    assert became(weirgate).state == "differs"
    assert (paid_out(weirgate)["Paid out"], paid_out(weirgate)["Fees"]) == (("50.52", "46.53"), ("-1.12", "-1.11"))
    assert paid_out(weirgate, first=date(2026, 11, 1), last=date(2026, 11, 30)) == {}
    # A payout that is held is at the provider, and not in the books.
    weirgate.put("payment-provider", payouts=[payout(entry("sorcery", 700), number=3)])
    weirgate.run(PAYOUTS)
    assert became(weirgate, "WP-3").state == "held"
    assert paid_out(weirgate)["sorcery"] == ("7.00", "0.00")
    assert paid_out(weirgate)["Paid out"] == ("57.52", "46.53")


def test_a_month_does_not_tie_while_a_payout_has_not_crossed_or_was_changed(weirgate: World) -> None:
    """Sales and refunds tie all the same; its month does not, its document is told, and no other month is touched."""
    (first, _), (_, pence) = paid(FIRST), paid("MW-10009")
    sheet = weirgate.calls.sheet(**OCTOBER)
    assert sheet.read().ties
    weirgate.put("payment-provider", payouts=[
        payout(entry("charge", 1394, first, fee=-41, tax=-8)),
        payout(entry("charge", pence, paid("MW-10009")[0], shop_ref="MW-10009"), number=2),
    ])  # fmt: skip
    weirgate.run(PAYOUTS)
    reason = "payouts or payments not carried yet"
    found = sheet.read()
    assert not found.ties
    assert [(one.reason, one.documents) for one in found.differing] == [(reason, 1)]
    assert all(row.ties for row in (*found.rows, *found.tax_codes, *found.accounts, *found.tenders))
    (behind,) = sheet.documents(reason=reason)
    assert (behind.number, behind.reasons, behind.detail) == ("WP-2", [reason], "order-first")
    month = weirgate.calls.month("marrowby-uk", "2026-10")
    assert [(one.reason, one.detail, one.documents) for one in month.read().items] == [(reason, "order-first", 1)]
    (journal,) = journals(weirgate)
    first_line, *rest = journal["lines"]
    other = [{**first_line, "account": "8200"}, *rest]
    weirgate.put("erp", edited={"journal": {str(journal["id"]): {"lines": other}}})
    read_again(weirgate)
    assert [(one.reason, one.documents) for one in sheet.read().differing] == [("changed in the books", 1), (reason, 1)]
    assert [one.number for one in sheet.documents(reason="changed in the books")] == ["WP-1"]
    assert weirgate.calls.tie_out(first=date(2026, 11, 1), last=date(2026, 11, 30)).ties
    # Put back as it was, and the order come: nothing is open.
    weirgate.put("erp", entered={"journal": [journal]})
    weirgate.put_orders(shop_order("MW-10009"))
    weirgate.run()
    weirgate.calls.release(cause="order-first")
    read_again(weirgate)
    assert sheet.read().ties
    assert month.read().items == []


def test_a_payout_is_heard_of_by_a_signed_call(weirgate: World) -> None:
    """No run is started: the provider calls, and the journal is posted."""
    weirgate.calls.connection("weirgate").register_calls()
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first, fee=-41, tax=-8))])
    (journal,) = wait_for(lambda: journals(weirgate) or None, seconds=30, what="the journal")
    assert postings(journal) == [("1250", "-13.94"), ("7500", "0.41"), ("2200", "0.08"), ("1200", "13.45")]


def test_every_amount_says_why_it_stands_there(weirgate: World) -> None:
    """Each entry's part leads to its line, by the rule that named the account."""
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first, fee=-41, tax=-8),
                                                     entry("set aside", -100))])  # fmt: skip
    weirgate.run(PAYOUTS)
    spread = weirgate.calls.crossing(became(weirgate).id)
    said = {reason["target"]: (reason["rule"], reason["text"]) for reason in spread.reasons}
    assert said["/documents/0/lines/0/account"] == ("/payouts/clearing", "Charges stand on 1250.")
    assert said["/documents/0/lines/3/base"] == ("planner:payout-entries", "Reserves kept: 1 entry, 1.00 debited.")
    placed = {part["source"]: part["amount"] for reason in spread.reasons for part in reason["allocated"]}
    assert placed == {"/entries/0/amount": "13.94", "/entries/0/fee": "-0.41", "/entries/0/fee_tax": "-0.08",
                      "/entries/1/amount": "-1.00", "/total": "12.45"}  # fmt: skip


def test_refunds_are_matched_and_a_payout_may_be_collected(weirgate: World) -> None:
    """9.99 went back when it was refunded; the payout takes it from the takings, and nothing is posted twice."""
    weirgate.put("web-shop", refunds=[refund()])
    weirgate.run()
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[
        payout(entry("charge", 1394, first)), payout(entry("payback", -999, "wg_r_801"), number=2)])  # fmt: skip
    weirgate.run(PAYOUTS)
    assert [postings(one) for one in journals(weirgate)] == [
        [("1250", "-13.94"), ("1200", "13.94")], [("1250", "9.99"), ("1200", "-9.99")]]  # fmt: skip
    assert became(weirgate, "WP-2").state == "carried"
    # What is left is the other order's.
    assert balance(weirgate, "1250") == Decimal("33.92")


def test_an_order_tells_which_payout_its_money_is_in(weirgate: World) -> None:
    """From the order and its refund to the payouts; one that is of neither is not among them."""
    weirgate.put("web-shop", refunds=[refund()])
    weirgate.run()
    (first, _), (second, _) = paid(FIRST), paid(SECOND)
    weirgate.put("payment-provider", payouts=[
        payout(entry("charge", 1394, first)), payout(entry("payback", -999, "wg_r_801"), number=2),
        payout(entry("charge", 3392, second), number=3)])  # fmt: skip
    weirgate.run(PAYOUTS)
    crossings = {one.number: one.id for one in weirgate.calls.crossings()}
    following = {number: [(one.kind, one.number, one.state) for one in weirgate.calls.crossing(key).following]
                 for number, key in crossings.items()}  # fmt: skip
    assert following == {
        FIRST: [("refunds", "MW-R-801", "carried"), ("payouts", "WP-1", "carried")],
        "MW-R-801": [("payouts", "WP-2", "carried")], SECOND: [("payouts", "WP-3", "carried")],
        "WP-1": [], "WP-2": [], "WP-3": [],
    }  # fmt: skip


def test_what_is_of_no_known_order_waits_for_it(weirgate: World) -> None:
    """Held by name; it goes by itself once the order has come."""
    transaction, pence = paid("MW-10009")
    weirgate.put("payment-provider", payouts=[payout(entry("charge", pence, transaction, shop_ref="MW-10009"))])
    weirgate.run(PAYOUTS)
    held = became(weirgate)
    assert (held.state, held.cause, journals(weirgate)) == ("held", "order-first", [])
    (finding,) = weirgate.calls.crossing(held.id).findings
    assert f"charge {transaction} (MW-10009) of payout WP-1 belong to no order" in finding.text
    weirgate.put_orders(shop_order("MW-10009"))
    weirgate.run()
    weirgate.calls.release(cause="order-first")
    weirgate.settled()
    assert (became(weirgate).state, len(journals(weirgate))) == ("carried", 1)


@pytest.mark.parametrize(("told", "cause", "said"), [
    ({"minor": 1}, "source-invalid", "come to 13.94, and 0.01 GBP were paid"),
    ({"money": "EUR"}, "currency-not-kept", "is in EUR, the books in GBP"),
    ({"minor": 13.94}, "source-invalid", "whole number of minor units"),
    ({"minor": True}, "source-invalid", "whole number of minor units"),
    ({"entries": "none"}, "source-invalid", "misstates the entries of WP-1"),
])  # fmt: skip
def test_what_a_provider_misstates_is_held_and_stops_no_other(
    weirgate: World, told: Json, cause: str, said: str
) -> None:
    """With what is wrong; the next payout goes."""
    (first, _), (second, _) = paid(FIRST), paid(SECOND)
    good = payout(entry("charge", 3392, second), number=2)
    weirgate.put("payment-provider", payouts=[{**payout(entry("charge", 1394, first)), **told}, good])
    weirgate.run(PAYOUTS)
    held = became(weirgate)
    assert (held.state, held.cause) == ("held", cause)
    assert said in weirgate.calls.crossing(held.id).findings[0].text
    assert became(weirgate, "WP-2").state == "carried"


def test_a_kind_of_entry_that_nobody_knows_holds_it_by_its_name(weirgate: World) -> None:
    """As the provider calls it."""
    weirgate.put("payment-provider", payouts=[payout(entry("moonlight", 500))])
    weirgate.run(PAYOUTS)
    (finding,) = weirgate.calls.crossing(became(weirgate).id).findings
    assert (finding.id, "moonlight" in finding.text) == ("PAYOUT-E004", True)


def test_it_needs_rules_and_books_that_take_journals(weirgate: World) -> None:
    """A rulebook that names no accounts for payouts is refused when the lane is to run."""
    bridge = weirgate.calls.bridge(PAYOUTS)
    bridge.publish_rulebook(bridge.write_rulebook("rulebook: 1\ncustomers:\n  find_by: email\n").number)
    with pytest.raises(ApiError, match="The rulebook says nothing of payouts"):
        bridge.run()


def test_a_sales_side_that_pays_nothing_out_has_no_such_lane(weirgate: World) -> None:
    """Told before anything is read; and a provider has no orders."""
    shop = weirgate.calls.bridge(BRIDGE)
    accounts = rulebook_text(PAYOUTS).partition("\npayouts:")[2].partition("\n\n")[0]
    both = f"{rulebook_text(BRIDGE)}\npayouts:{accounts}\n"
    shop.publish_rulebook(shop.write_rulebook(both).number)
    shop.switch_lane("payouts", on=True)
    with pytest.raises(ApiError, match=r"Payouts are to cross .*, but .* has no payouts"):
        shop.run()
    provider = weirgate.calls.bridge(PAYOUTS)
    provider.publish_rulebook(provider.write_rulebook(both).number)
    provider.switch_lane("orders", on=True)
    with pytest.raises(ApiError, match=r"Orders are to cross .*, but Marrowby at Weirgate has no orders"):
        provider.run()


@pytest.mark.parametrize("call", ["payouts.list", "payouts.entries"])
@pytest.mark.parametrize("kind", ["busy", "broken", "cut"])
def test_a_provider_that_fails_on_the_way_is_asked_again(weirgate: World, call: str, kind: str) -> None:
    """Once it answers, each payout stands in the books once."""
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first))])
    weirgate.misbehave("payment-provider", {"call": call, "kind": kind, "times": 1, "seconds": 0.1})
    weirgate.run(PAYOUTS)
    weirgate.run(PAYOUTS)
    assert len(journals(weirgate)) == 1


def test_a_journal_whose_answer_is_lost_is_posted_once(weirgate: World) -> None:
    """It is found again by its reference."""
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first))])
    weirgate.misbehave("erp", {"call": "journals.create", "kind": "cut", "times": 1})
    weirgate.run(PAYOUTS)
    weirgate.settled()
    assert (became(weirgate).state, len(journals(weirgate))) == ("carried", 1)


def test_a_corrected_payout_posts_the_difference_on_the_day_of_the_correction(weirgate: World) -> None:
    """A day later the provider adds 33.92 that it had forgotten, less 0.71; what stands in the books stays there."""
    (first, _), (second, _) = paid(FIRST), paid(SECOND)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first))])
    weirgate.run(PAYOUTS)
    corrected = payout(entry("charge", 1394, first), entry("charge", 3392, second, fee=-71),
                       altered="2026-10-06T10:00:00+01:00")  # fmt: skip
    weirgate.put("payment-provider", payouts=[corrected])
    assert weirgate.run(PAYOUTS).counts.carried == 1
    before, after = journals(weirgate)
    assert (postings(before), before["date"]) == ([("1250", "-13.94"), ("1200", "13.94")], "2026-10-06")
    assert postings(after) == [("1250", "-33.92"), ("7500", "0.71"), ("1200", "33.21")]
    assert (after["date"], after["memo"]) == ("2026-10-06", "Payout WP-1 of Weirgate, changed")
    assert balance(weirgate, "1250") == 0
    assert findings(weirgate) == ["AMEND-N006"]
    assert weirgate.run(PAYOUTS).counts.carried == 0
    # Taken back again, the books are where they were; and the sheet of the month never knew of any of it.
    weirgate.put("payment-provider", payouts=[{**payout(entry("charge", 1394, first)),
                                               "altered": "2026-10-07T10:00:00+01:00"}])  # fmt: skip
    weirgate.run(PAYOUTS)
    assert (len(journals(weirgate)), balance(weirgate, "1250"), balance(weirgate, "1200")) == (
        3, Decimal("33.92"), Decimal("13.94"))  # fmt: skip
    assert [one.unexplained.gross for one in weirgate.calls.tie_out(**OCTOBER).sales] == [0]


def test_a_journal_that_somebody_changed_in_the_books_is_not_corrected_over_their_heads(weirgate: World) -> None:
    """They moved the charge to another account; the provider's correction waits for a person."""
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first))])
    weirgate.run(PAYOUTS)
    (journal,) = journals(weirgate)
    lines = [{**line, "account": "2390"} if line["account"] == "1250" else line for line in journal["lines"]]
    weirgate.put("erp", edited={"journal": {journal["id"]: {"lines": lines}}})
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first, fee=-100),
                                                     altered="2026-10-06T10:00:00+01:00")])  # fmt: skip
    weirgate.run(PAYOUTS)
    assert (became(weirgate).state, findings(weirgate)) == ("held", ["AMEND-E006"])
    assert "2390 -13.94" in weirgate.calls.crossing(became(weirgate).id).findings[0].text
