"""Clearing accounts on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.carriage.test_clearing import world
from tests.carriage.test_payouts import FIRST, SECOND
from tests.cli.test_cli import Inkwell, working_for
from tests.cli.test_setup_commands import told
from tests.support.world import World

__all__ = ["world"]
OCTOBER = ("--first", "2026-10-01", "--last", "2026-10-31")


@pytest.fixture
def inkwell(world: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for that client."""
    return working_for(world, tmp_path)


def squeezed(text: str) -> list[str]:
    """Its lines, however far apart their columns stand."""
    return [" ".join(line.split()) for line in text.splitlines()]


def test_an_account_is_proved_shown_and_listed(inkwell: Inkwell, world: World) -> None:
    """47.86 less 13.94, column by column; the day's balances with --days; what is open with its order."""
    assert "uk-books 1250 Weirgate clearing clearing, money of buyers – –" in squeezed(
        told(inkwell, "clearing", "accounts")
    )
    said = squeezed(told(inkwell, "clearing", "prove", "1250", *OCTOBER, "--days"))
    for line in ("Account 1250 (Weirgate clearing) of uk-books, 2026-10-01 to 2026-10-31, GBP", "Charges 47.86",
                 "Fees -0.41", "Tax on fees -0.08", "Reserves kept -1.00", "Paid out -12.45", "Closing 33.92",
                 "Closing in the books 33.92", "The books have more 0.00", "What stands there: 1 item, 33.92",
                 "Both sides are the same, item by item."):  # fmt: skip
        assert line in said
    assert ["2026-10-06", "–", "–", "–", "–", "-12.45", "33.92", "33.92", "0.00"][-3:] == next(
        line for line in said if line.startswith("2026-10-06")).split()[-3:]  # fmt: skip
    assert any(SECOND in line and "not paid out yet 33.92" in line for line in said)
    number = str(json.loads(told(inkwell, "clearing", "list", "--account", "1250", "--json"))[0]["id"])
    assert any(
        line.startswith(f"{number} uk-books 1250 2026-10-01") for line in squeezed(told(inkwell, "clearing", "list"))
    )
    shown = json.loads(told(inkwell, "clearing", "show", number, "--json"))
    assert (shown["proves"], shown["result"]["closing"], shown["result"]["amounts"]["paid out"]) == (
        True,
        "33.92",
        "-12.45",
    )
    assert "uk-books 1250 Weirgate clearing clearing, money of buyers 2026-10-31 yes" in squeezed(
        told(inkwell, "clearing", "accounts"))  # fmt: skip


def test_what_differs_has_a_status_of_its_own(inkwell: Inkwell, world: World) -> None:
    """And is named, with both its amounts."""
    (receipt,) = [one for one in world.books()["receipt"] if one["order"] == FIRST]
    world.put("erp", edited={"receipt": {str(receipt["id"]): {"amount": "13.00"}}})
    said = squeezed(told(inkwell, "clearing", "prove", "1250", *OCTOBER, status=1))
    assert "1 item is not the same on both sides:" in said
    assert "another amount: 1, -0.94" in said
    assert any(f"{FIRST} " in line and "13.94" in line and "13.00 -0.94" in line for line in said)
    assert "no" in squeezed(told(inkwell, "clearing", "list"))[1].split()


def test_what_cannot_be_proved(inkwell: Inkwell, world: World) -> None:
    """An account that is none, and a proof that there never was."""
    refused = told(inkwell, "clearing", "prove", "9999", "--books", "uk-books", status=6)
    assert "has no account 9999 of a bank or another asset." in refused
    assert "There is no proof 999999" in told(inkwell, "clearing", "show", "999999", status=4)
