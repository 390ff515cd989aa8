"""Requests for payment on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.carriage.test_requests import (
    BRIDGE,
    BY_BANK,
    FIRST,
    ON_FILE,
    SECOND,
    asking,
    at_provider,
    come_in,
    pay,
    request,
    run,
)
from tests.cli.test_clearing_commands import squeezed
from tests.cli.test_cli import Inkwell, working_for
from tests.cli.test_setup_commands import told
from tests.support.world import World

__all__ = ["asking"]


@pytest.fixture
def inkwell(asking: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for that client."""
    return working_for(asking, tmp_path)


def test_requests_are_listed_shown_and_narrowed(inkwell: Inkwell, asking: World) -> None:
    """What is asked, what is paid, and the link; as a table and as JSON."""
    assert "No requests." in told(inkwell, "requests", "list")
    run(asking)
    pay(asking, SECOND, minor="10000")
    run(asking)
    said = squeezed(told(inkwell, "requests", "list"))
    link = request(asking, SECOND).link
    assert f"{request(asking, SECOND).id} {SECOND} 2026-10-12 384.60 100.00 GBP part paid – {link}" in said
    (only,) = json.loads(told(inkwell, "requests", "list", "--standing", "part paid", "--json"))
    assert (only["invoice"], only["amount"], only["paid"]) == (SECOND, "384.60", "100.00")
    shown = told(inkwell, "requests", "show", str(only["id"]))
    assert f"At the provider: {at_provider(asking, SECOND)['request']}. Opened 1 times." in shown
    assert "There is no request 999" in told(inkwell, "requests", "show", "999", status=4)


def test_one_is_made_cancelled_and_made_again(inkwell: Inkwell, asking: World) -> None:
    """Each is waited for; what nobody can ask for is refused with what is missing."""
    made = squeezed(told(inkwell, "requests", "make", BRIDGE, BY_BANK))
    assert f"{BY_BANK} 2026-10-26 1,250.40 0.00 GBP open" in made[1]
    assert "Made by hand by first.owner@inkwell.example" in made
    number = str(request(asking, BY_BANK).id)
    gone = told(inkwell, "requests", "cancel", number, "--note", "Pays by bank")
    assert "Cancelled by hand by first.owner@inkwell.example: Pays by bank" in gone
    assert at_provider(asking, BY_BANK)["dropped"] is True
    assert "open" in squeezed(told(inkwell, "requests", "make", BRIDGE, BY_BANK))[1]
    assert "has no posted invoice 'SI-1'" in told(inkwell, "requests", "make", BRIDGE, "SI-1", status=5)
    assert "cannot ask for payment" in told(inkwell, "requests", "make", "web-shop-to-uk-books", FIRST, status=6)


def test_both_pages_of_each_are_shown(inkwell: Inkwell, asking: World) -> None:
    """The invoice with what it asks for, and a payment with the surplus that it left."""
    run(asking)
    come_in(asking, 50_000)
    run(asking)
    shown = squeezed(told(inkwell, "documents", "show", FIRST, "--bridge", BRIDGE))
    assert f"Invoice {FIRST}: carried" in shown
    assert "480.00 GBP for Invoice SI-09001, until 2027-02-02." in shown
    (payment,) = [one.number for one in asking.calls.crossings(kind="request_payments") if f"{one.gross}" == "500.00"]
    said = told(inkwell, "documents", "show", payment)
    for line in (f"At the provider: 500.00 GBP by bank, for invoice {FIRST}",
                 "480.00 GBP of " + payment + " settles invoice SI-09001, of which 480.00 was open.",
                 "20.00 GBP of " + payment + " is more than was open of invoice SI-09001: it is owed to the "
                 "buyer."):  # fmt: skip
        assert line in said
    assert ON_FILE in told(inkwell, "documents", "list", "--kind", "requests")
