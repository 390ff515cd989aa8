"""Accounts of money proved through the service: what the books have on them, beside what was posted from here."""

from __future__ import annotations

import json
from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client import ApiError
from inkwell_bridge.client.models import AccountProof, ClearingProof
from inkwell_bridge.core.books import Role
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_bank import lines as bank_lines
from tests.carriage.test_bank import of_payout, take, with_bank
from tests.carriage.test_foreign_orders import in_euro, keep, rules
from tests.carriage.test_money import refund
from tests.carriage.test_payouts import (
    FIRST,
    PAYOUTS,
    SECOND,
    STRAIGHT,
    balance,
    became,
    entry,
    journals,
    paid,
    payout,
    postings,
)
from tests.support.ends import BENCHES, document
from tests.support.statements import camt_entry
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

CLEARING = "1250"
OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}
Json = dict[str, Any]


def with_provider(stack: Stack, owner: str) -> World:
    """Orders of 13.94 and 33.92 in the books; of the first 0.41 and 0.08 of tax are kept, 1.00 is set aside, and 12.45
    are paid out."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), shop_order(SECOND), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    world.put("payment-provider", reset=True, company=facts()["weirgate"], payouts=[
        payout(entry("charge", 1394, paid(FIRST)[0], fee=-41, tax=-8), entry("set aside", -100))])  # fmt: skip
    demo_client.set_up_payouts(stack, world.calls, world=world.slug)
    bridge = world.calls.bridge(PAYOUTS)
    bridge.publish_rulebook(bridge.write_rulebook(STRAIGHT).number)
    world.run(PAYOUTS)
    return world


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """As above."""
    return with_provider(stack, owner)


def proof(world: World, account: str = CLEARING, **days: date) -> ClearingProof:
    """The proof of an account of October, once it has ended."""
    calls = world.calls.clearing
    asked = calls.prove(books="uk-books", account=account, **(OCTOBER | days))

    def look() -> ClearingProof | None:
        found = calls.proof(asked.id)
        return None if found.under_way else found

    return wait_for(look, seconds=60, what="the proof")


def proved(world: World, account: str = CLEARING, **days: date) -> AccountProof:
    """What came of it; expects that it ended."""
    found = proof(world, account, **days)
    assert (found.state, found.trouble) == ("ended", "")
    assert found.result is not None
    assert found.proves is not (bool(found.result.differences) or bool(found.result.unexplained))
    return found.result


def amounts(result: AccountProof) -> dict[str, str]:
    """Its columns."""
    return {column: f"{amount}" for column, amount in result.amounts.items()}


def differing(result: AccountProof) -> list[tuple[str, str]]:
    """Why its items differ, and by how much."""
    return [(one.why, f"{one.amount}") for one in result.differing]


def typed_in(world: World, role: Role = Role.JOURNAL, **fields: Any) -> None:
    """Something that somebody enters in the books by hand."""
    bench = BENCHES["erp"]
    books = bench.books(world)
    made = document(bench, role, **fields)
    contact = "" if role is Role.JOURNAL else str(world.books()["receipt"][0]["contact"])
    books.post(books.create(made, contact_id=contact, key=""))


def test_what_stands_on_clearing_is_what_was_not_paid_out(world: World) -> None:
    """47.86 came, 0.41, 0.08 and 1.00 were kept of 13.94, and 12.45 paid out: the other order's 33.92 are left."""
    result = proved(world)
    assert amounts(result) == {"charges": "47.86", "fees": "-0.41", "tax on fees": "-0.08", "reserves kept": "-1.00",
                               "paid out": "-12.45"}  # fmt: skip
    assert [f"{one}" for one in (result.opening, result.closing, result.books)] == ["0.00", "33.92", "33.92"]
    assert (result.differences, result.currency) == ([], "GBP")
    last = result.days[-1]
    assert (str(last.day), f"{last.opening}", f"{last.closing}", f"{last.difference}") == (
        "2026-10-06", "47.86", "33.92", "0.00")  # fmt: skip
    assert result.standing is not None
    (left,) = result.standing.items
    assert (left.number, left.transaction, left.why, f"{left.amount}") == (
        SECOND, paid(SECOND)[0], "not paid out yet", "33.92")  # fmt: skip
    assert (result.standing.not_accounted_for, result.standing.from_elsewhere) == (0, 0)
    # Each by its own day: at the end of the fifth nothing was paid out.
    early = proved(world, last=date(2026, 10, 5))
    assert (amounts(early), f"{early.closing}") == ({"charges": "47.86"}, "47.86")
    assert early.standing is not None
    assert sorted(one.why for one in early.standing.items) == [
        "not paid out yet",
        "paid out, and the payout is not posted",
    ]
    # From the sixth on, the 47.86 of before are the opening that the books tell.
    late = proved(world, first=date(2026, 10, 6))
    assert (f"{late.opening}", f"{late.closing}", late.differences) == ("47.86", "33.92", [])
    assert late.standing is not None
    assert (late.standing.from_elsewhere, late.standing.not_accounted_for) == (0, 0)


def test_the_other_accounts_of_a_payout(world: World) -> None:
    """The reserve by what was kept, the bank by what was paid out; neither is asked what stands there."""
    kept, bank = proved(world, "1270"), proved(world, "1200")
    assert (amounts(kept), kept.standing) == ({"reserves kept": "1.00"}, None)
    assert (amounts(bank), f"{bank.books}") == ({"paid out": "12.45"}, "12.45")


def test_money_that_went_back(world: World) -> None:
    """9.99 of the first order, taken off a later payout; until then it stands there below zero."""
    world.put("web-shop", refunds=[refund()])
    world.run()
    result = proved(world)
    assert (amounts(result)["refunds"], f"{result.closing}") == ("-9.99", "23.93")
    assert result.standing is not None
    assert sorted(f"{one.amount}" for one in result.standing.items) == ["-9.99", "33.92"]
    later = {"made": "2026-10-20T07:00:00+01:00", "altered": "2026-10-20T07:00:00+01:00", "lands": "2026-10-21"}
    world.put("payment-provider", payouts=[payout(entry("payback", -999, "wg_r_801"), number=2, **later)])
    world.run(PAYOUTS)
    result = proved(world)
    assert (amounts(result)["paid out"], f"{result.closing}") == ("-2.46", "33.92")
    assert result.standing is not None
    assert [one.number for one in result.standing.items] == [SECOND]


def test_a_charge_paid_out_in_parts_and_one_with_another_amount(world: World) -> None:
    """20.00 and 13.92 of 33.92 in two payouts; then the provider says that the second was 13.90: 0.02 are left."""
    second, parts = paid(SECOND)[0], {"number": 2}
    world.put("payment-provider", payouts=[payout(entry("charge", 2000, second), **parts),
                                           payout(entry("charge", 1392, second), number=3)])  # fmt: skip
    world.run(PAYOUTS)
    result = proved(world)
    assert f"{result.closing}" == "0.00"
    assert result.standing is not None
    assert (result.standing.items, result.standing.not_accounted_for) == ([], 0)
    changed = {"altered": "2026-10-12T07:00:00+01:00", "number": 3}
    world.put("payment-provider", payouts=[payout(entry("charge", 1390, second), **changed)])
    world.run(PAYOUTS)
    result = proved(world)
    assert f"{result.closing}" == "0.02"
    assert result.standing is not None
    (left,) = result.standing.items
    assert (left.why, left.payout, f"{left.received}", f"{left.cleared}") == (
        "paid out with another amount", "WP-2, WP-3", "33.92", "33.90")  # fmt: skip


def test_what_a_provider_carries_over_stands_there(world: World) -> None:
    """Of 33.92 it keeps 30.00 back, and gives them with the next payout."""
    second = paid(SECOND)[0]
    world.put("payment-provider", payouts=[
        payout(entry("charge", 3392, second), entry("to next", -3000), number=2)])  # fmt: skip
    world.run(PAYOUTS)
    result = proved(world)
    assert result.standing is not None
    assert [(one.why, f"{one.amount}") for one in result.standing.items] == [("carried over by the provider", "30.00")]
    assert (f"{result.closing}", result.standing.not_accounted_for) == ("30.00", 0)


def test_an_order_that_was_never_told_of(stack: Stack, owner: str) -> None:
    """Its 5.00 went to suspense: they never were on clearing, which proves with a column of their own."""
    world = with_provider(stack, owner)
    bridge = world.calls.bridge(PAYOUTS)
    # Any liability will do for what is of nobody.
    rules = STRAIGHT.replace("  reserves:", '  suspense: "2300"\n  reserves:')
    bridge.publish_rulebook(bridge.write_rulebook(rules).number)
    world.put("payment-provider", payouts=[
        payout(entry("charge", 500, "wg_nobody"), entry("charge", 3392, paid(SECOND)[0]), number=2)])  # fmt: skip
    world.run(PAYOUTS)
    result = proved(world)
    assert (amounts(result)["of no known order"], amounts(result)["paid out"]) == ("5.00", "-51.37")
    assert f"{result.closing}" == "0.00"
    assert result.standing is not None
    assert (result.standing.items, result.standing.not_accounted_for) == ([], 0)
    # The order comes after all: its receipt clears what waited for it, and nobody has to do anything.
    late = shop_order("MW-10007")
    late["received"] = [{**late["received"][0], "transaction": "wg_nobody"}]
    world.put_orders(late)
    world.run()
    wait_for(lambda: None if balance(world, "2300") else True, seconds=30, what="the order of what was in suspense")
    world.settled()
    found = became(world, "WP-2")
    assert (found.state, [one.id for one in world.calls.crossing(found.id).findings]) == ("carried", ["AMEND-N006"])
    further = next(one for one in journals(world) if one["memo"].endswith("changed"))
    assert sorted(postings(further)) == [("1250", "-5.00"), ("2300", "5.00")]
    assert further["date"] == "2026-10-06"
    result = proved(world)
    assert amounts(result)["of no known order"] == "0.00"
    assert result.standing is not None
    assert result.standing.not_accounted_for == 0


def provider_side(result: AccountProof) -> tuple[dict[str, str], str, str]:
    """What the provider has by column, what it owes, and what of that stands here."""
    found = result.at_provider
    assert found is not None
    assert found.trouble == ""
    return {column: f"{amount}" for column, amount in found.amounts.items()}, f"{found.balance}", f"{found.here}"


def one_sided(result: AccountProof) -> list[tuple[str, str | None, str | None]]:
    """What only one side has, or another amount of."""
    assert result.at_provider is not None
    return [(one.number, one.here and f"{one.here}", one.there and f"{one.there}") for one in result.at_provider.items]  # type: ignore[misc]


def test_every_day_proves_against_the_provider_too(world: World) -> None:
    """33.92 are not paid out: the provider owes 33.92 less 0.71 and 0.14; on the day before the payout it owed both."""
    world.put("payment-provider", open_entries=[
        entry("charge", 3392, paid(SECOND)[0], fee=-71, tax=-14, shop_ref=SECOND)])  # fmt: skip
    result = proved(world)
    assert provider_side(result) == ({"charges": "33.92", "fees": "-0.71", "tax on fees": "-0.14"}, "33.07", "33.92")
    assert one_sided(result) == []
    before = proved(world, last=date(2026, 10, 4))
    assert provider_side(before) == (
        {"charges": "47.86", "fees": "-1.12", "tax on fees": "-0.22", "reserves kept": "-1.00"},
        "45.52",
        "47.86",
    )
    assert one_sided(before) == []


def test_what_only_one_side_knows_is_named(world: World) -> None:
    """The other order's charge is none there; one of 5.00 is of nobody here; and of a third the provider took less."""
    late = shop_order("MW-10007")
    world.put_orders(late)
    world.run()
    transaction, pence = paid("MW-10007")
    world.put("payment-provider", open_entries=[entry("charge", 500, "wg_nobody", shop_ref="MW-1"),
                                                entry("charge", pence - 100, transaction)])  # fmt: skip
    result = proved(world)
    found = result.at_provider
    assert found is not None
    assert [f"{one}" for one in (found.only_here, found.only_there, found.otherwise)] == ["33.92", "5.00", "1.00"]
    whole = f"{Decimal(pence) / 100:.2f}"
    assert sorted(one_sided(result)) == sorted([
        (SECOND, "33.92", None), ("MW-1", None, "5.00"), ("MW-10007", whole, f"{Decimal(whole) - 1:.2f}")])  # fmt: skip
    assert found.here - sum(found.amounts.values()) == found.only_here - found.only_there + found.otherwise
    # That is between provider and shop; the books have what was posted.
    assert result.differences == []


def test_a_provider_that_does_not_answer_keeps_no_proof_from_the_books(world: World) -> None:
    """It is said so, and all else is as it was; paused, it is not asked at all."""
    world.misbehave("payment-provider", {"call": "unpaid", "kind": "broken", "times": 9})
    result = proved(world)
    assert result.at_provider is not None
    assert "Marrowby at Weirgate could not be asked" in result.at_provider.trouble
    assert (f"{result.closing}", result.differences) == ("33.92", [])
    world.calls.connection("weirgate").pause()
    assert proved(world).at_provider is None


@pytest.mark.parametrize("body", ["[]", "{}", '{"money": "GBP", "entries": 7, "cursor": null}',
                                  '{"money": "GBP", "entries": [{"does": "charge"}], "cursor": null}',
                                  '{"money": "GBP", "entries": [], "cursor": 7}',
                                  '{"money": "GBP", "entries": [], "cursor": "0"}'])  # fmt: skip
def test_a_list_that_is_none_is_told_as_such(world: World, body: str) -> None:
    """Beside the proof of the books."""
    world.misbehave("payment-provider", {"call": "unpaid", "kind": "said", "body": body, "times": 9})
    result = proved(world)
    assert result.at_provider is not None
    assert result.at_provider.trouble.startswith("Marrowby at Weirgate could not be asked")


def test_a_ledger_in_another_currency_is_not_held_against_the_account(world: World) -> None:
    """No sum is made of pounds and euros."""
    world.misbehave("payment-provider", {"call": "unpaid", "kind": "said", "times": 9,
                                         "body": '{"money": "EUR", "entries": [], "cursor": null}'})  # fmt: skip
    result = proved(world)
    assert result.at_provider is not None
    assert result.at_provider.trouble == "Marrowby at Weirgate keeps its ledger in EUR, and the books are kept in GBP."


def test_a_payout_that_clears_nothing(world: World) -> None:
    """5.00 for the service, collected from the bank: nothing stands on clearing of it, and its columns show it."""
    world.put("payment-provider", payouts=[payout(entry("plan", -500), number=2)])
    world.run(PAYOUTS)
    result = proved(world)
    assert (amounts(result)["subscriptions"], amounts(result)["paid out"]) == ("-5.00", "-7.45")
    assert (f"{result.closing}", result.differences) == ("33.92", [])


def test_money_that_was_paid_out_before_its_receipt_is_posted(world: World) -> None:
    """Its order is held, and known: until it is carried its 7.45 stand below nothing, by its own number."""
    held = shop_order("MW-10031")
    transaction, pence = held["received"][0]["transaction"], paid("MW-10031")[1]
    world.put_orders(held)
    assert world.run().counts.held == 1
    world.put("payment-provider", payouts=[payout(entry("charge", pence, transaction), number=2)])
    world.run(PAYOUTS)
    result = proved(world)
    assert result.standing is not None
    (below,) = [one for one in result.standing.items if one.amount < 0]
    assert (below.number, below.why, f"{below.amount}") == (
        "MW-10031", "paid out, and its receipt is not posted", f"{Decimal(-pence) / 100}")  # fmt: skip
    assert below.crossing is not None
    assert world.calls.crossing(below.crossing).number == "MW-10031"


FAULTS: dict[str, tuple[Json, str, str]] = {
    "another amount": ({"amount": "13.00"}, "another amount", "-0.94"),
    "another day": ({"date": "2026-10-09"}, "another day", "0.00"),
    "another month": ({"date": "2026-11-02"}, "missing in the books", "-13.94"),
    "another account": ({"account": "1200"}, "missing in the books", "-13.94"),
    "voided": ({"state": "void"}, "missing in the books", "-13.94"),
}


def test_each_fault_in_the_books_is_found_and_nothing_else(world: World) -> None:
    """Somebody changes a receipt there, one way after the other; mended, the account proves again."""
    (receipt,) = [one for one in world.books()["receipt"] if one["order"] == FIRST]
    for name, (fields, why, amount) in FAULTS.items():
        world.put("erp", edited={"receipt": {str(receipt["id"]): fields}})
        result = proved(world)
        assert differing(result) == [(why, amount)], name
        assert [one.source_number for one in result.differing] == [FIRST]
        assert (f"{result.books - result.closing}", result.unexplained) == (amount, 0), name
        world.put("erp", edited={"receipt": {str(receipt["id"]): {field: receipt[field] for field in fields}}})
    assert proved(world).differences == []


def test_what_somebody_entered_or_doubled_is_named(world: World) -> None:
    """A journal by hand, a receipt once more under our mark, and one that bears a mark which nothing here made."""
    reference = next(one["reference"] for one in world.books()["receipt"] if one["order"] == FIRST)
    typed_in(world, external_reference="by hand", text="Float", date="2026-10-12")
    typed_in(world, Role.PAYMENT, external_reference=reference, amount="13.94", date="2026-10-13")
    typed_in(world, Role.PAYMENT, external_reference="INK:web-shop:999:payment:1", amount="4.00", date="2026-10-14")
    result = proved(world)
    assert sorted(differing(result)) == [
        ("bears our mark, and nothing here made it", "4.00"), ("entered by hand", "-9.50"),
        ("twice in the books", "13.94"),
    ]  # fmt: skip
    assert {one.why: one.text for one in result.differing}["entered by hand"] == "Float"
    assert (f"{result.closing}", f"{result.books}", result.unexplained) == ("33.92", "42.36", 0)
    # Afterwards they are what the books began with, and are told apart from what was posted here.
    late = proved(world, first=date(2026, 11, 1), last=date(2026, 11, 30))
    assert late.standing is not None
    assert (late.differences, f"{late.opening}") == ([], "42.36")
    assert (f"{late.standing.from_elsewhere}", late.standing.not_accounted_for) == ("8.44", 0)


def test_what_is_on_its_way_to_the_bank(stack: Stack, owner: str) -> None:
    """13.94 arrived, 33.92 have not: by payout, and proved on either account."""
    world = with_bank(stack, owner)
    take(world, of_payout(1, "13.94"), camt_entry("2026-10-07", "-650.00", reference="B9", text="RENT MILL"),
         camt_entry("2026-10-09", "1.25", reference="B10", text="Interest"))  # fmt: skip
    rent = next(one.id for one in bank_lines(world) if one.text == "RENT MILL")
    world.calls.bank_account("current-account").exclude([rent], "Rent")
    world.settled()
    way = proved(world, "1210")
    assert amounts(way) == {"paid out": "47.86", "arrived": "-13.94"}
    assert way.standing is not None
    assert [(one.number, one.why, f"{one.amount}") for one in way.standing.items] == [
        ("WP-2", "on its way to the bank", "33.92")]  # fmt: skip
    assert way.standing.not_accounted_for == 0
    # The bank began with 100.00; 650.00 of rent and 1.25 that nobody knows are not in the books.
    bank = proved(world, "1200")
    assert (amounts(bank), bank.standing) == ({"arrived": "13.94"}, None)
    assert bank.at_bank is not None
    assert {name: f"{value}" for name, value in bank.at_bank.model_dump(mode="python").items()} == {
        "day": "2026-10-31", "balance": "-534.81", "books": "13.94", "opening_difference": "100.00",
        "open_lines": "1.25", "excluded_lines": "-650.00", "not_accounted_for": "0.00",
    }  # fmt: skip
    known = {one.account: one for one in world.calls.clearing.accounts() if one.books == "uk-books"}
    assert known["1210"].purposes == ["on its way to the bank"]
    assert (known["1250"].purposes, known["1250"].newest) == (["clearing", "money of buyers"], None)
    assert known["1210"].newest is not None
    assert known["1210"].newest.proves


def test_books_that_are_away_or_say_nonsense_leave_a_reason(world: World) -> None:
    """The proof ends as failed, and the next one is as good as any."""
    said = {"jsonrpc": "2.0", "id": 1, "result": {"balance": "much"}}
    world.misbehave("erp", {"call": "accounts.balance", "kind": "said", "content_type": "application/json",
                            "body": json.dumps(said)})  # fmt: skip
    found = proof(world)
    assert (found.state, found.proves, found.result) == ("failed", None, None)
    assert "balance of an account" in found.trouble
    world.misbehave("erp")
    assert proved(world).differences == []


def test_an_account_that_does_not_prove_needs_somebody(world: World) -> None:
    """Until it proves again; with a link to it."""
    (receipt,) = [one for one in world.books()["receipt"] if one["order"] == FIRST]
    world.put("erp", edited={"receipt": {str(receipt["id"]): {"amount": "13.00"}}})
    proved(world)

    def troubles() -> list[tuple[str, str, str]]:
        found = world.calls.troubles().troubles
        return [(one.kind, one.headline, one.page) for one in found if one.kind == "account"]

    (found,) = wait_for(lambda: troubles() or None, seconds=30, what="the trouble")
    assert found == ("account", "Account 1250 does not prove (Marrowby UK books)", "clearing?account=uk-books/1250")
    world.put("erp", edited={"receipt": {str(receipt["id"]): {"amount": "13.94"}}})
    proved(world)
    wait_for(lambda: None if troubles() else True, seconds=30, what="its end")


def told_once(world: World, call: str, **said: Any) -> None:
    """Let the ERP answer a call so, once."""
    body = json.dumps({"jsonrpc": "2.0", "id": 1, "result": said})
    world.misbehave("erp", {"call": call, "kind": "said", "content_type": "application/json", "body": body, "times": 3})


def test_what_books_say_is_bounded(world: World) -> None:
    """A list that leads to itself ends; a text that no database keeps, and an amount that no currency has, are shown as
    they can be; none of it is left behind."""
    entry_told = {"id": 7, "family": "journals", "number": "JN-7", "date": "2026-10-09", "reference": "\u0000 by hand",
                  "memo": "\ud800" + "long " * 300, "debit": "0.001", "credit": "0"}  # fmt: skip
    told_once(world, "accounts.entries", entries=[entry_told], onward=1)
    found = proof(world)
    assert (found.state, "leads back to the page" in found.trouble) == ("failed", True)
    told_once(world, "accounts.entries", entries=[entry_told], onward=None)
    result = proved(world)
    by_hand = next(one for one in result.differing if one.why == "entered by hand")
    assert (by_hand.reference, f"{by_hand.amount}", len(by_hand.text)) == ("\ufffd by hand", "0.001", 200)
    # Their entries do not lead from the one balance to the other, and that has no other name.
    assert f"{result.unexplained}" == "33.919"
    world.misbehave("erp")


def test_money_in_another_currency_counts_as_the_books_count_it(stack: Stack, owner: str) -> None:
    """13.94 EUR at 0.85 are 11.85 GBP: on either side, and so it waits for its payout."""
    world = new_world(stack, owner, rules=rules("kept", "table"))
    world.put_orders(in_euro(shop_order(FIRST)), reset=True)
    keep(world, "EUR 2026-10-01 0.85")
    world.run()
    result = proved(world)
    assert (amounts(result), f"{result.books}", result.differences) == ({"charges": "11.85"}, "11.85", [])
    assert result.standing is not None
    assert [f"{one.amount}" for one in result.standing.items] == ["11.85"]


def test_it_is_worked_out_whatever_is_killed(world: World) -> None:
    """A proof that was cancelled stays so, and another can be asked for at once; one at a time of an account."""
    world.misbehave("erp", {"call": "accounts.entries", "kind": "latency", "seconds": 3.0})
    calls = world.calls.clearing
    asked = calls.prove(books="uk-books", account=CLEARING, **OCTOBER)
    with pytest.raises(ApiError, match="is being proved") as refused:
        calls.prove(books="uk-books", account=CLEARING)
    assert (refused.value.problem.model_extra or {})["proof"] == asked.id
    assert calls.cancel(asked.id).state == "cancelled"
    assert proved(world).differences == []
    assert calls.proof(asked.id).state == "cancelled"


def test_what_cannot_be_proved_is_refused(world: World) -> None:
    """An account that is not in the chart, days out of order, an end that is no books, books that tell nothing."""
    calls = world.calls.clearing
    with pytest.raises(ApiError, match="has no account 9999") as refused:
        calls.prove(books="uk-books", account="9999")
    assert refused.value.problem.status == 409
    with pytest.raises(ApiError, match="last"):
        calls.prove(books="uk-books", account=CLEARING, first=date(2026, 10, 2), last=date(2026, 10, 1))
    with pytest.raises(ApiError):
        calls.prove(books="web-shop", account=CLEARING)
    with pytest.raises(ApiError, match="There is no proof 999999"):
        calls.proof(999999)
