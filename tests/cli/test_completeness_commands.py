"""Whether everything was read, on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.carriage.test_completeness import BRIDGE, LOST, orders, shop
from tests.cli.test_clearing_commands import OCTOBER, squeezed
from tests.cli.test_cli import Inkwell, working_for
from tests.cli.test_setup_commands import told
from tests.support.world import World

__all__ = ["shop"]


@pytest.fixture
def inkwell(shop: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for that client."""
    return working_for(shop, tmp_path)


def test_what_was_lost_is_fetched_and_what_is_lacking_is_named(inkwell: Inkwell, shop: World) -> None:
    """With a status of its own while anything is lacking."""
    shop.put_orders(*orders(unlisted=True))
    failed = inkwell("completeness", "check", BRIDGE, *OCTOBER)
    said = squeezed(failed.stdout)
    assert failed.returncode == 1
    for line in ("GBP 6 130.50 7 152.25 6 130.50", "Counted and not listed: 1 of 21.75 GBP.",
                 f"Numbers without a document: {LOST}.", "Something is lacking, or could not be checked."):  # fmt: skip
        assert line in said
    assert any(
        "1 without a number orders" in line for line in squeezed(told(inkwell, "completeness", "lacking", *OCTOBER))
    )
    assert "1 document is counted and not listed." in inkwell("tie-out", *("--from", "2026-10-01")).stdout
    shop.put_orders(*orders(lost=True))
    said = squeezed(told(inkwell, "completeness", "check", BRIDGE, *OCTOBER))
    assert f"{LOST} fetched GBP 21.75" in said
    assert said[-1] == "Everything is here."
    assert "Nothing is known to be lacking." in told(inkwell, "completeness", "lacking", *OCTOBER)
    newest, older = json.loads(told(inkwell, "completeness", "list", "--json"))
    assert (newest["complete"], older["complete"]) == (True, False)
    shown = inkwell("completeness", "show", str(older["id"]))
    assert (shown.returncode, "Counted and not listed" in shown.stdout) == (1, True)
    assert [line.split()[-1] for line in squeezed(told(inkwell, "completeness", "list"))[-2:]] == ["yes", "no"]
