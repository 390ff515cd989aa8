"""Opening balances at the cut-over: entered by a person, posted once, proved."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from inkwell_bridge.client import Conflict, Invalid, NotFound
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.cli.test_cli import command
from tests.support.world import BRIDGE, World, new_world

OWED = {"of": "gift cards", "amount": "120.00"}
TO_COME = {"of": "clearing", "amount": "40.00", "account": "1250"}


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """A client that carries from 1 October on."""
    made = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    made.calls.bridge(BRIDGE).change(starts_on=date(2026, 10, 1))
    return made


def posted(world: World) -> list[dict[str, str]]:
    """The books' postings: account, debit, credit."""
    journals = [one for one in world.books().get("journal", []) if one["state"] == "posted"]
    return [{name: line[name] for name in ("account", "debit", "credit")} for one in journals for line in one["lines"]]


def test_they_are_posted_once_and_proved(world: World) -> None:
    """120.00 owed on gift cards, 40.00 still to come: 80.00 stands against; entered again they are refused."""
    calls = world.calls.bridge(BRIDGE)
    with pytest.raises(NotFound):
        calls.opening()
    calls.enter_opening(against="3000", balances=[OWED, TO_COME])
    world.settled()
    found = calls.opening()
    assert (found.state, found.opened_on, bool(found.books_number)) == ("carried", date(2026, 10, 1), True)
    assert posted(world) == [
        {"account": "2310", "debit": "0", "credit": "120.00"},
        {"account": "1250", "debit": "40.00", "credit": "0"},
        {"account": "3000", "debit": "80.00", "credit": "0"},
    ]
    with pytest.raises(Conflict, match="are posted already"):
        calls.enter_opening(against="3000", balances=[OWED])
    (step,) = [one for one in calls.setup() if one.id == "opening"]
    assert (step.state, step.text) == ("done", "Opening balances as of 01 October 2026: carried.")


@pytest.mark.parametrize("call", ["journals.create", "journals.post"])
def test_an_answer_that_never_came_makes_no_second_journal(world: World, call: str) -> None:
    """The books are searched by the mark before anything is made again."""
    world.misbehave("erp", {"call": call, "kind": "silent", "times": 1})
    world.calls.bridge(BRIDGE).enter_opening(against="3000", balances=[OWED])
    world.settled()
    assert world.misbehaved("erp")[0]["struck"] == 1
    assert [line["account"] for line in posted(world)] == ["2310", "3000"]


def test_what_the_rules_do_not_know_is_held_and_entered_again(world: World) -> None:
    """No payment comes in on 4000; nothing was posted, so better balances take their place."""
    calls = world.calls.bridge(BRIDGE)
    calls.enter_opening(against="3000", balances=[{**TO_COME, "account": "4000"}])
    world.settled()
    held = calls.opening()
    assert (held.state, held.findings[0].id, posted(world)) == ("held", "OPEN-E003", [])
    calls.enter_opening(against="3000", balances=[TO_COME])
    world.settled()
    assert (calls.opening().state, len(posted(world))) == ("carried", 2)


def test_they_need_a_first_day_and_sense(stack: Stack, owner: str) -> None:
    """Without a start date there is no day for them; what cannot be read changes nothing."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    calls = world.calls.bridge(BRIDGE)
    with pytest.raises(Conflict, match="has no start date yet"):
        calls.enter_opening(against="3000", balances=[OWED])
    calls.change(starts_on=date(2026, 10, 1))
    for wrong in ({"of": "fish", "amount": "1"}, {"of": "gift cards", "amount": "1e3"}, {"of": "gift cards"}):
        with pytest.raises(Invalid):
            calls.enter_opening(against="3000", balances=[wrong])
    with pytest.raises(Conflict, match="more than 2 digits"):
        calls.enter_opening(against="3000", balances=[{**OWED, "amount": "1.005"}])
    with pytest.raises(NotFound):
        calls.opening()


def test_on_the_command_line(world: World, tmp_path: Path) -> None:
    """Entered and shown; a slip is told."""
    call = command(tmp_path / "profile.json")
    more = {"INKWELL_ADDRESS": world.stack.address, "INKWELL_TOKEN": world.token, "INKWELL_WORKSPACE": world.slug}
    slip = call("opening", "enter", BRIDGE, "--against", "3000", "--clearing", "1250", **more)
    assert (slip.returncode, "such as 1250=40.00, got '1250'" in slip.stderr) == (2, True)
    done = call(
        "opening", "enter", BRIDGE, "--against", "3000", "--gift-cards", "120.00", "--clearing", "1250=40.00", **more
    )
    assert done.returncode == 0, done.stderr
    world.settled()
    shown = call("opening", "show", BRIDGE, **more)
    assert "gift cards" in shown.stdout
    assert "As of 2026-10-01, against 3000: carried as " in shown.stderr
    both = call("documents", "show", "Opening balances", **more)
    assert both.stdout.startswith("Opening balances: carried\n"), both.stderr
    assert "The opening balance of gift cards, 120.00, is credited, for it is owed." in both.stdout
