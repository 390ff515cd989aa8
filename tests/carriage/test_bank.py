"""The bank through the service: statements taken, lines matched to payouts, and what arrived posted to the books."""

from __future__ import annotations

import os
import time
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client import ApiError
from inkwell_bridge.client.bank import BankAccountCalls
from inkwell_bridge.client.models import BankLine
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_payouts import (
    FIRST,
    PAYOUTS,
    SECOND,
    STRAIGHT,
    balance,
    entry,
    journals,
    paid,
    payout,
    postings,
)
from tests.support.statements import IBAN, camt, camt_entry
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

LAYOUT = {"booked_on": "Date", "amount": "Amount", "text": ["Details"], "balance": "Balance", "days": "dd/mm/yyyy"}


def with_bank(stack: Stack, owner: str, rules: str = "") -> World:
    """Two orders of 13.94 and 33.92 in the books, a payout of each, and a bank account without statements."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), shop_order(SECOND), reset=True)
    world.run()
    (first, _), (second, _) = paid(FIRST), paid(SECOND)
    world.put("payment-provider", reset=True, company=facts()["weirgate"], payouts=[
        payout(entry("charge", 1394, first)), payout(entry("charge", 3392, second), number=2)])  # fmt: skip
    demo_client.set_up_payouts(stack, world.calls, world=world.slug)
    if rules:
        bridge = world.calls.bridge(PAYOUTS)
        bridge.publish_rulebook(bridge.write_rulebook(rulebook_text(PAYOUTS) + rules).number)
    world.calls.create_bank_account(slug="current-account", name="Current account", books="uk-books",
                                    ledger_account="1200", number="GB33 BUKB 2020 1555 5555 55",
                                    currency="GBP", layout=LAYOUT)  # fmt: skip
    world.run(PAYOUTS)
    return world


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """As above, by the rules of the demo."""
    return with_bank(stack, owner)


def account(world: World) -> BankAccountCalls:
    """The bank account."""
    return world.calls.bank_account("current-account")


def take(world: World, *entries: str, name: str = "october.xml", **said: Any) -> Any:
    """Take a statement with these entries, whose balances follow from them."""
    opening = Decimal(said.pop("opening", "100.00"))
    total = sum((Decimal(one.partition("GBP\">")[2].partition("<")[0]) * (-1 if "DBIT" in one else 1)
                 for one in entries), Decimal(0))  # fmt: skip
    text = camt(list(entries), opening=str(opening), closing=str(said.pop("closing", opening + total)), **said)
    return account(world).take(name, text.encode())


def lines(world: World, state: str = "open") -> list[BankLine]:
    """The lines of that state."""
    return list(account(world).lines(state=state))


def of_payout(number: int, amount: str, *, day: str = "2026-10-06", reference: str = "") -> str:
    """A line that names a payout."""
    return camt_entry(day, amount, reference=reference or f"B{number}", text=f"WEIRGATE WP-{number}", name="Weirgate")


def test_what_was_on_its_way_stands_on_the_bank_once_the_bank_has_it(world: World) -> None:
    """13.94 and 33.92 leave clearing when they are paid out, and reach the bank by its lines."""
    assert (balance(world, "1210"), balance(world, "1200"), balance(world, "1250")) == (Decimal("47.86"), 0, 0)
    taken = take(world, of_payout(1, "13.94"), camt_entry("2026-10-07", "-650.00", reference="B9", text="RENT MILL"))
    assert (taken.lines, taken.new_lines, taken.matched, taken.notes) == (2, 2, 1, [])
    world.settled()
    assert (balance(world, "1210"), balance(world, "1200")) == (Decimal("33.92"), Decimal("13.94"))
    arrived = next(one for one in journals(world) if one["memo"].startswith("Bank line"))
    assert (arrived["date"], arrived["memo"]) == ("2026-10-06", "Bank line B1: WP-1")
    assert postings(arrived) == [("1200", "13.94"), ("1210", "-13.94")]
    (matched,) = lines(world, "matched")
    assert [(one.number, f"{one.amount}", one.by) for one in matched.matches] == [("WP-1", "13.94", "reference")]
    (left,) = lines(world)
    assert (left.text, f"{left.amount}") == ("RENT MILL", "-650.00")
    found = account(world).unmatched()
    assert [(one.number, f"{one.amount}", str(one.due_on), one.on_account) for one in found.awaited] == [
        ("WP-2", "33.92", "2026-10-06", "1210")]  # fmt: skip
    # It is the money of sales that were counted already.
    assert [one.unexplained.gross for one in world.calls.tie_out(**OCTOBER).sales] == [0]
    # From the order to the payout and the bank's line, and from the payout to that.
    crossings = {one.number: one.id for one in world.calls.crossings()}
    way = [one.number for one in world.calls.crossing(crossings[FIRST]).following]
    assert way == ["WP-1", "B1"]
    assert [one.number for one in world.calls.crossing(crossings["WP-1"]).following] == ["B1"]
    assert [one.number for one in world.calls.crossing(crossings[SECOND]).following] == ["WP-2"]
    said = {one["target"]: one["text"] for one in world.calls.crossing(crossings["B1"]).reasons}
    assert said["/documents/0/lines/1/base"] == "Payout WP-1 stood on 1210 until the bank had it."


def test_a_payout_that_comes_after_its_line_is_matched_when_it_is_carried(world: World) -> None:
    """The bank may tell first."""
    take(world, of_payout(3, "-5.00"))
    assert len(lines(world)) == 1
    world.put("payment-provider", payouts=[payout(entry("plan", -500), number=3)])
    world.run(PAYOUTS)
    # Looked for once the payout is carried, which the run does not wait for.
    wait_for(lambda: None if lines(world) else True, seconds=30, what="the line")
    world.settled()
    assert balance(world, "1200") == Decimal("-5.00")


def test_each_open_line_is_counted_once_whatever_the_number_of_statements(world: World) -> None:
    """Two of October and one of November."""
    take(world, camt_entry("2026-10-06", "1.00", text="A"), camt_entry("2026-10-07", "2.00", text="B"))
    take(world, camt_entry("2026-11-02", "4.00", text="C"), name="november.xml", number="11", opening="103.00",
         first="2026-11-01", last="2026-11-30")  # fmt: skip
    (found,) = world.calls.bank_accounts()
    assert (found.open_lines, str(found.last_day)) == (3, "2026-11-30")


def test_statements_that_overlap_bring_only_what_is_new(world: World) -> None:
    """A week, and the month that holds it; two lines that are just alike are two, each time."""
    alike = camt_entry("2026-10-06", "1.00", text="Interest")
    week = [of_payout(1, "13.94"), alike, alike]
    assert take(world, *week, name="week.xml", number="W41", first="2026-10-05", last="2026-10-11").new_lines == 3
    month = take(world, *week, of_payout(2, "33.92", day="2026-10-12"))
    assert (month.lines, month.new_lines, month.matched) == (4, 1, 1)
    again = take(world, *week, of_payout(2, "33.92", day="2026-10-12"))
    assert (again.new_lines, again.notes[0].partition(", on")[0]) == (0, "This file was taken before")
    world.settled()
    assert balance(world, "1200") == Decimal("47.86")
    assert len(lines(world)) == 2


def test_days_between_two_statements_are_told(world: World) -> None:
    """Taken all the same: the one that is missing may come later, and then joins both."""
    take(world, number="W40", first="2026-10-01", last="2026-10-04")
    later = take(world, number="W42", first="2026-10-12", last="2026-10-18", opening="113.94", name="later.xml")
    assert later.notes[0].startswith("No statement covers 2026-10-05 to 2026-10-11, and 13.94 moved on these days")
    between = take(
        world, of_payout(1, "13.94"), number="W41", first="2026-10-05", last="2026-10-11", name="between.xml"
    )
    assert between.notes == []


REFUSED: list[tuple[str, list[str], dict[str, Any], str]] = [
    ("another account", [], {"account": "GB94BARC10201530093459"}, "a statement of account GB94BARC10201530093459"),
    ("another currency", [], {"currency": "EUR"}, "a statement in EUR"),
    ("lines that do not come to its balances", [of_payout(2, "33.92")], {"closing": "100.00"},
     "its lines come to 33.92, and its balances lead from 100.00 to 100.00"),
    ("a balance that does not follow", [], {"first": "2026-10-11", "last": "2026-10-12", "opening": "99.00"},
     "statement 10 leads to 113.94 on the morning of 2026-10-11, and statement 11 opens with 99.00"),
    ("a known line with another amount", [of_payout(1, "13.95")], {},
     "line 1: this line of 2026-10-06, 13.95, is new, though statement 10 covers that day; it was known with 13.94"),
    ("a line too many", [of_payout(1, "13.94"), of_payout(2, "33.92")], {}, "33.92, is new, though statement 10"),
    ("a line too few", [], {}, r"lacks a line of that day that statement 10 has: 13.94 \(B1\)"),
    ("cut off", [of_payout(1, "13.94")], {"message": "054", "version": "XX"}, "expected a bank statement by ISO 20022"),
]  # fmt: skip


@pytest.mark.parametrize(("entries", "said", "why"), [pytest.param(*one[1:], id=one[0]) for one in REFUSED])
def test_what_contradicts_is_refused_whole(world: World, entries: list[str], said: dict[str, Any], why: str) -> None:
    """With the line that says so; nothing of it is kept, but that it was refused."""
    take(world, of_payout(1, "13.94"), first="2026-10-05", last="2026-10-10")
    days = {"first": "2026-10-05", "last": "2026-10-09", "number": "11", "name": "other.xml"}
    with pytest.raises(ApiError, match=why) as refused:
        take(world, *entries, **{**days, **said})
    assert refused.value.problem.code == "statement-refused"
    assert len(lines(world)) + len(lines(world, "matched")) == 1
    newest = next(account(world).statements())
    assert (newest.name, newest.lines, bool(newest.problem)) == ("other.xml", 0, True)


def test_a_table_by_the_layout_of_the_account(world: World) -> None:
    """Its first and last day may be half; days between are whole. A table of the same days joins it."""
    head = "Date,Details,Amount,Balance\n"
    first = "06/10/2026,WEIRGATE WP-1,13.94,113.94\n07/10/2026,Rent,-50.00,63.94\n"
    more = "07/10/2026,Tea,-1.00,62.94\n08/10/2026,WEIRGATE WP-2,33.92,96.86\n"
    assert account(world).take("a.csv", (head + first).encode()).matched == 1
    taken = account(world).take("b.csv", (head + first + more).encode())
    assert (taken.lines, taken.new_lines, taken.matched) == (4, 2, 1)
    with pytest.raises(ApiError, match=r"line 3: the balance 64.00 does not follow from 113.94"):
        account(world).take("c.csv", (head + first.replace("63.94", "64.00")).encode())
    wrong = first.replace("Rent,-50.00,63.94", "Rates,-50.00,63.94")
    with pytest.raises(
        ApiError, match=r"line 3: this line of 2026-10-07, -50.00, is new, though an earlier one covers"
    ):
        account(world).take("d.csv", (head + wrong + more).encode())


def test_single_lines_of_a_notification_are_the_statement_s_own(world: World) -> None:
    """Told during the day, they come again with the evening's statement, and are known."""
    told = take(world, of_payout(1, "13.94"), message="054", name="noon.xml")
    assert told.matched == 1
    assert take(world, of_payout(1, "13.94"), of_payout(2, "33.92")).new_lines == 1


def test_one_line_of_two_payouts_and_two_of_one(world: World) -> None:
    """47.86 in one sum; and 20.00 and 10.00 for one of 30.00."""
    world.put("payment-provider", payouts=[payout(entry("set free", 3000), number=3)])
    world.run(PAYOUTS)
    both = camt_entry("2026-10-06", "47.86", reference="B1", text="WEIRGATE WP-1 WEIRGATE WP-2")
    assert take(world, both, of_payout(3, "20.00", reference="B3"), of_payout(3, "10.00", reference="B4")).matched == 3
    world.settled()
    assert (balance(world, "1210"), balance(world, "1200")) == (0, Decimal("77.86"))
    moved = sorted(sorted(postings(one)) for one in journals(world) if one["memo"].startswith("Bank line"))
    assert moved == [[("1200", "10.00"), ("1210", "-10.00")], [("1200", "20.00"), ("1210", "-20.00")],
                     [("1200", "47.86"), ("1210", "-13.94"), ("1210", "-33.92")]]  # fmt: skip


def test_by_hand_and_taken_back(world: World) -> None:
    """A line that names nothing is proposed; matched and taken back, the books are where they were."""
    take(world, camt_entry("2026-10-06", "13.94", reference="B1", text="CREDIT"))
    found = account(world).unmatched()
    (proposed,) = found.proposals
    assert (proposed.by, proposed.difference) == ("amount", 0)
    (line,) = account(world).match(proposed.lines, proposed.crossings, "Seen on the bank's own page")
    assert (line.state, line.matches[0].by, line.matches[0].made_by) == (
        "matched",
        "hand",
        "first.owner@inkwell.example",
    )
    world.settled()
    assert balance(world, "1200") == Decimal("13.94")
    assert account(world).take_back(line.id).state == "open"
    world.settled()
    assert (balance(world, "1200"), balance(world, "1210")) == (0, Decimal("47.86"))
    assert len(journals(world)) == 4
    # And once more, to the other of the same bridge: what is posted is the difference.
    account(world).match(proposed.lines, proposed.crossings)
    world.settled()
    assert (balance(world, "1200"), balance(world, "1210")) == (Decimal("13.94"), Decimal("33.92"))


def test_what_does_not_belong_together_is_refused(world: World) -> None:
    """And nothing changes."""
    take(world, camt_entry("2026-10-06", "13.90", reference="B1"), camt_entry("2026-10-06", "13.94", reference="B2"))
    payouts = {one.number: one.crossing for one in account(world).unmatched().awaited}
    short, right = (one.id for one in lines(world))
    for given, why in [
        (([short], [payouts["WP-1"]]), "The lines come to 13.90, the payouts to 13.94: -0.04 are left over"),
        (([short, right], list(payouts.values())), "Several lines and several documents"),
        (([short + 99], [payouts["WP-1"]]), "not on this account"),
        (([right], [payouts["WP-1"] + 99]), "not awaited on this account"),
    ]:
        with pytest.raises(ApiError, match=why):
            account(world).match(*given)
    account(world).match([right], [payouts["WP-1"]])
    with pytest.raises(ApiError, match="matched already"):
        account(world).match([right], [payouts["WP-2"]])
    with pytest.raises(ApiError, match="is not matched"):
        account(world).take_back(short)
    with pytest.raises(ApiError, match="There is no line 999999"):
        account(world).take_back(999_999)


def test_a_line_that_is_no_payout_is_excluded_with_a_reason(world: World) -> None:
    """It is not proposed any more, and can be looked at again; one that is matched stays so."""
    take(world, camt_entry("2026-10-07", "-650.00", reference="B9", text="RENT MILL"), of_payout(1, "13.94"))
    (rent,) = lines(world)
    with pytest.raises(ApiError, match="Say what these lines are"):
        account(world).exclude([rent.id], " ")
    keys = [rent.id, *(one.id for one in lines(world, "matched"))]
    assert account(world).exclude(keys, "Rent of the mill") == 1
    (excluded,) = lines(world, "excluded")
    assert (excluded.note, excluded.decided_by, lines(world)) == ("Rent of the mill", "first.owner@inkwell.example", [])
    assert account(world).open_again(keys) == 1
    assert len(lines(world)) == 1


def test_by_its_amount_alone_where_the_rules_allow_it(stack: Stack, owner: str) -> None:
    """And only near its day."""
    world = with_bank(stack, owner, rules="\nbank:\n  unnamed: take the only one\n  within_days: 2\n")
    late = camt_entry("2026-10-20", "33.92", reference="B2")
    assert take(world, camt_entry("2026-10-07", "13.94", reference="B1"), late).matched == 1
    assert [one.matches[0].by for one in lines(world, "matched")] == ["amount"]
    assert [f"{one.amount}" for one in lines(world)] == ["33.92"]


def test_a_payout_that_stands_on_the_bank_already_is_only_matched(stack: Stack, owner: str) -> None:
    """Without money on its way nothing is posted by the bank's line."""
    world = with_bank(stack, owner)
    bridge = world.calls.bridge(PAYOUTS)
    bridge.publish_rulebook(bridge.write_rulebook(STRAIGHT).number)
    world.put("payment-provider", payouts=[payout(entry("set free", 1000), number=3)])
    world.run(PAYOUTS)
    before = len(journals(world))
    assert take(world, of_payout(3, "10.00")).matched == 1
    world.settled()
    assert (len(journals(world)), balance(world, "1200")) == (before, Decimal("10.00"))


def test_an_account_is_known_by_its_number_and_stays_once_it_has_lines(world: World) -> None:
    """What it is cannot change; its name and layout can."""
    calls = world.calls
    common: dict[str, Any] = {"name": "Euro", "books": "uk-books", "number": IBAN, "currency": "EUR"}
    for fields, why in [
        ({**common, "slug": "euro", "ledger_account": "1200"}, "There is a bank account with this already"),
        ({**common, "slug": "current-account", "ledger_account": "1201"}, "There is a bank account with this already"),
        ({**common, "slug": "euro", "ledger_account": "1201", "currency": "XXY"}, "XXY"),
        ({**common, "slug": "euro", "ledger_account": "1201", "number": "--"}, "four letters and digits"),
        ({**common, "slug": "euro", "ledger_account": "1201", "layout": {"booked_on": "d"}}, "either amount, or both"),
        ({**common, "slug": "euro", "ledger_account": "1201", "books": "web-shop"}, "does not exist"),
    ]:
        with pytest.raises(ApiError, match=why):
            calls.create_bank_account(**fields)
    calls.create_bank_account(**common, slug="euro", ledger_account="1201")
    assert [one.slug for one in calls.bank_accounts()] == ["current-account", "euro"]
    calls.bank_account("euro").remove()
    with pytest.raises(ApiError, match="This stays as it was"):
        account(world).change(currency="EUR")
    assert account(world).change(name="Main account", layout=None).name == "Main account"
    take(world, of_payout(1, "13.94"))
    with pytest.raises(ApiError, match="Main account has lines of 2026-10-31"):
        account(world).remove()
    with pytest.raises(ApiError, match="how its table is laid out is not described"):
        account(world).take("a.csv", b"Date,Amount\n")
    assert account(world).read().open_lines == 0


def test_a_folder_is_watched(world: World) -> None:
    """What is dropped there is taken and moved, or refused and moved; links, and what is hidden, are left alone."""
    folder = world.stack.home / "bank-statements" / world.slug / "current-account"
    folder.mkdir(parents=True)
    before = time.time() - 60
    for name, text in (("1.xml", camt([of_payout(1, "13.94")], closing="113.94")), ("2.xml", "<Document/>"),
                       (".3.xml", "<Document/>")):  # fmt: skip
        (folder / name).write_text(text, "utf-8")
        os.utime(folder / name, (before, before))
    (folder / "4.xml").symlink_to(folder / ".3.xml")
    moved = (folder / "refused" / "2.xml", folder / "taken" / "1.xml")
    wait_for(lambda: True if all(one.exists() for one in moved) else None, seconds=60, what="the folder")
    assert sorted(one.name for one in folder.iterdir()) == [".3.xml", "4.xml", "refused", "taken"]
    assert [one.name for one in (folder / "taken").iterdir()] == ["1.xml"]
    files = {one.name: (one.lines, bool(one.problem), one.read_by) for one in account(world).statements()}
    assert files == {"1.xml": (1, False, ""), "2.xml": (0, True, "")}
    wait_for(lambda: True if lines(world, "matched") else None, seconds=30, what="the line")
    assert [one.matches[0].number for one in lines(world, "matched")] == ["WP-1"]
    # The same once more is moved, and nothing of it is new.
    (folder / "1.xml").write_text(camt([of_payout(1, "13.94")], closing="113.94"), "utf-8")
    os.utime(folder / "1.xml", (before, before))
    wait_for(lambda: True if len(list((folder / "taken").iterdir())) == 2 else None, seconds=60, what="the folder")
    assert len(list(account(world).statements())) == 2


def test_a_statement_that_is_refused_needs_somebody(world: World) -> None:
    """It may have been dropped into a folder, and nobody looked; the next one that is read ends it."""
    with pytest.raises(ApiError):
        take(world, of_payout(1, "13.94"), closing="1.00")

    def troubles() -> list[tuple[str, str]]:
        found = world.calls.troubles().troubles
        return [(one.headline, one.page) for one in found if one.kind == "statement"]

    (found,) = wait_for(lambda: troubles() or None, seconds=30, what="the trouble")
    said = "A bank statement was refused: Current account (Marrowby UK books)"
    assert found == (said, "bank?account=current-account")
    take(world, of_payout(1, "13.94"))
    wait_for(lambda: None if troubles() else True, seconds=30, what="its end")
