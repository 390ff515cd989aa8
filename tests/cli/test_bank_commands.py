"""Payouts and the bank on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.carriage.test_bank import of_payout, world
from tests.cli.test_cli import Inkwell, working_for
from tests.cli.test_setup_commands import told
from tests.support.statements import camt, camt_entry
from tests.support.world import World

__all__ = ["world"]


@pytest.fixture
def inkwell(world: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for that client."""
    return working_for(world, tmp_path)


def test_a_statement_is_read_looked_through_and_matched(inkwell: Inkwell, world: World, tmp_path: Path) -> None:
    """What is open is told with what to do, and with a status of its own."""
    file = tmp_path / "october.xml"
    unnamed = camt_entry("2026-10-07", "33.92", reference="B2", text="BULK CREDIT")
    rent = camt_entry("2026-10-07", "-650.00", reference="B3", text="RENT MILL")
    file.write_text(camt([of_payout(1, "13.94"), unnamed, rent], closing="-502.14"), "utf-8")
    assert "october.xml: 3 lines, 3 new; 1 matched." in told(inkwell, "bank", "read", str(file))
    again = told(inkwell, "bank", "read", str(file))
    assert "3 lines, 0 new" in again
    assert "This file was taken before" in again
    assert "october.xml" in told(inkwell, "bank", "statements")
    listed = json.loads(told(inkwell, "bank", "list", "--json"))
    keys = {one["text"]: str(one["id"]) for one in listed}
    found = told(inkwell, "bank", "unmatched", status=1)
    assert "WP-2" in found
    assert f"Line {keys['BULK CREDIT']} may be WP-2, by its amount: inkwell bank match {keys['BULK CREDIT']}" in found
    assert "Matched: WP-2." in told(inkwell, "bank", "match", keys["BULK CREDIT"], "--to", "WP-2", "--note", "Seen")
    refused = told(inkwell, "bank", "match", keys["RENT MILL"], "--to", "WP-1", status=4)
    assert "WP-1 is not awaited on this account: nothing is." in refused
    assert "1 of 1 lines are excluded: Rent" in told(inkwell, "bank", "exclude", keys["RENT MILL"], "--note", "Rent")
    assert "All that is awaited has arrived." in told(inkwell, "bank", "unmatched")
    assert "is open again" in told(inkwell, "bank", "take-back", keys["BULK CREDIT"])
    assert "1 of 1 lines are open again" in told(inkwell, "bank", "reopen", keys["RENT MILL"])
    assert "GB33 BUKB" in told(inkwell, "bank", "accounts")


def test_an_account_with_a_layout(inkwell: Inkwell, world: World, tmp_path: Path) -> None:
    """And what is wrong with one; of several accounts one is named."""
    layout, table = tmp_path / "layout.json", tmp_path / "a.csv"
    layout.write_text('{"booked_on": "Day", "amount": "Sum", "separator": ";"}', "utf-8")
    table.write_text("Day;Sum\n2026-10-05;1.00\n", "utf-8")
    made = ("bank", "add", "reserve", "--books", "uk-books", "--ledger-account", "1270", "--number", "1234 5678",
            "--currency", "gbp", "--layout", str(layout))  # fmt: skip
    assert "reserve is account 1270 of uk-books." in told(inkwell, *made)
    assert "Say which bank account with --account: current-account, reserve" in told(
        inkwell, "bank", "read", str(table), status=4)  # fmt: skip
    assert "1 lines, 1 new" in told(inkwell, "bank", "read", str(table), "--account", "reserve")
    table.write_text("Day;Sum\n2026-10-05;1,00\n", "utf-8")
    refused = told(inkwell, "bank", "read", str(table), "--account", "reserve", status=6)
    assert "line 2: expected an amount with a decimal point, got '1,00'" in refused
    undescribed = told(inkwell, "bank", "read", str(table), "--account", "current-account", status=6)
    assert "line 1: expected the column 'Date', which the layout names" in undescribed
    assert "are read by layout.json" in told(inkwell, "bank", "layout", str(layout), "--account", "current-account")
    refused = told(inkwell, "bank", "read", str(table), "--account", "current-account", status=6)
    assert "line 2: expected an amount with a decimal point, got '1,00'" in refused
    layout.write_text('{"booked_on": "Day"}', "utf-8")
    assert "either amount, or both" in told(inkwell, "bank", "layout", str(layout), "--account", "reserve", status=5)
    assert "either amount, or both paid_in and paid_out" in told(inkwell, *made, status=5)
    layout.write_text("{", "utf-8")
    assert "is not JSON" in told(inkwell, *made, status=5)


def test_payouts_are_listed_with_what_the_bank_lacks(inkwell: Inkwell, world: World, tmp_path: Path) -> None:
    """And shown with their entries, their journal and their lines."""
    file = tmp_path / "october.xml"
    file.write_text(camt([of_payout(1, "13.94")], closing="113.94"), "utf-8")
    told(inkwell, "bank", "read", str(file))
    world.settled()
    every = json.loads(told(inkwell, "payouts", "list", "--json"))
    assert {one["number"]: one["still_to_come"] for one in every} == {"WP-1": None, "WP-2": "33.92"}
    awaited = told(inkwell, "payouts", "list", "--awaited")
    assert "WP-2" in awaited
    assert "WP-1" not in awaited
    shown = told(inkwell, "payouts", "show", "WP-1")
    assert "Bank line" in shown
    assert "does not have it yet" not in shown
    assert "The bank does not have it yet: 33.92 GBP due on 2026-10-06." in told(inkwell, "payouts", "show", "WP-2")
    assert "There is no payout WP-9 here." in told(inkwell, "payouts", "show", "WP-9", status=4)
    assert "At the bank: 13.94 GBP on 2026-10-06, WEIRGATE WP-1" in told(inkwell, "documents", "show", "B1")
    numbers = {one["number"] for one in json.loads(told(inkwell, "documents", "list", "--kind", "arrivals", "--json"))}
    assert numbers == {"B1"}
    assert "Expected one of orders" in told(inkwell, "documents", "list", "--kind", "nothing", status=5)
