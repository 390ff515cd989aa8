"""Rules proposed from what somebody entered into the books by hand: gathered from both ends, learnt, kept as a draft.

Sums by hand: 9.99 with 20 % is 8.32 and 1.67, carriage of 3.95 is 3.29 and 0.66; 20.00 is 16.67 and 3.33.
"""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import Any

import pytest

from inkwell_bridge.client import Conflict, NotFound
from inkwell_bridge.client.models import Proposal
from inkwell_bridge.ends.erp.rpc import Rpc
from inkwell_bridge.launch.stack import Stack
from tests.cli.test_cli import command
from tests.support.ends import BENCHES
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

Json = dict[str, Any]
OCTOBER = (date(2026, 10, 1), date(2026, 10, 31))
GOODS, CARRIAGE = ("8.32", "4000"), ("3.29", "4100")


def ended(world: World, asked: Proposal) -> Proposal:
    """A proposal once it is over."""

    def look() -> Proposal | None:
        found = world.calls.proposal(asked.id)
        return None if found.under_way else found

    return wait_for(look, seconds=60, what="the proposal")


def proposed(world: World, **how: Any) -> Proposal:
    """What October teaches."""
    return ended(world, world.calls.bridge(BRIDGE).propose(first=OCTOBER[0], last=OCTOBER[1], **how))


def inkwell(world: World, folder: Path, *arguments: str, status: int = 0) -> str:
    """What a command printed, on either stream, for this world."""
    call = command(folder / "profile.json")
    done = call(*arguments, INKWELL_ADDRESS=world.stack.address, INKWELL_TOKEN=world.token,
                INKWELL_WORKSPACE=world.slug)  # fmt: skip
    assert done.returncode == status, (done.stdout, done.stderr)
    return done.stdout + done.stderr


def an_order(number: int, *, country: str = "GB", email: str = "") -> Json:
    """A skein for 9.99 and a parcel for 3.95."""
    order = shop_order("MW-10003", id=60000 + number, reference=f"MW-{number}")
    shopper = order["shopper"] | {"email": email or f"buyer{number}@thimble.example", "account": 1000 + number}
    money = [order["received"][0] | {"transaction": f"t-{number}"}]
    return order | {"shopper": shopper, "ship_to": order["ship_to"] | {"country": country}, "received": money}


def type_in(world: World, number: str, *lines: tuple[str, str], email: str = "") -> None:
    """Enter an invoice by hand, with the order's number for its reference."""
    rpc: Rpc = BENCHES["erp"].open(world)._rpc
    contact = rpc.change("contacts.create", code="", name="By hand", email=email)["id"]
    said = [{"text": "by hand", "note": "", "account": account, "quantity": "1", "unit_price": net, "tax_code": "S20"}
            for net, account in lines]  # fmt: skip
    made = rpc.change("invoices.create", contact=contact, date="2026-10-03", currency="GBP", reference=number, order="",
                      link="", memo="", lines=said)  # fmt: skip
    rpc.change("invoices.post", id=made["id"])


@pytest.fixture
def by_hand(world: World) -> World:
    """Six orders that a bookkeeper entered. Two to Ireland stand on 4200; the carriage of one stands with its goods;
    the last bears no number, and is known by its sum and its customer."""
    irish = [an_order(number, country="IE") for number in (4, 5)]
    nameless = an_order(6, email="six@thimble.example")
    nameless["basket"][0] |= {"price": "20.00", "sum": "20.00", "tax": nameless["basket"][0]["tax"] | {"sum": "3.33"}}
    nameless |= {"tax": "3.99", "total": "23.95", "received": [nameless["received"][0] | {"sum": "23.95"}]}
    world.put_orders(*(an_order(number) for number in (1, 2, 3)), *irish, nameless, reset=True)
    for number in (1, 2):
        type_in(world, f"MW-{number}", GOODS, CARRIAGE)
    type_in(world, "MW-3", ("11.61", "4000"))
    for number in (4, 5):
        type_in(world, f"mw-{number} ", ("8.32", "4200"), CARRIAGE)
    type_in(world, "", ("16.67", "4000"), CARRIAGE, email="six@thimble.example")
    world.loaded("uk-books", "contacts")
    return world


def test_what_somebody_typed_teaches_the_rules(by_hand: World) -> None:
    """Five of six are explained; the third is named with both sums. Nothing changes at either end."""
    before, versions = by_hand.books(), len(list(by_hand.calls.bridge(BRIDGE).rulebooks()))
    found = proposed(by_hand)
    assert (found.state, found.trouble, found.unread) == ("ended", "", 0)
    assert (found.examples, found.explained, found.unexplained) == (6, 5, 1)
    told = {one.at: (one.value, one.supported, one.contradicted) for one in found.rules if one.value}
    assert told["/accounts/sales/default"] == ("4000", 4, 0)
    assert told["/accounts/sales/by_country/IE"] == ("4200", 2, 0)
    # Its goods and its carriage are one line, whose account is another than carriage's on the rest.
    assert told["/accounts/shipping"] == ("4100", 5, 1)
    assert told["/tax_codes/by_class/standard"] == ("S20", 6, 0)
    (differs,) = found.exceptions
    assert differs.number == "MW-3"
    assert differs.differs[0] == (
        "11.61 + 2.32 under account 4000, tax code S20 in the books, by the rules 8.32 + 1.67"
    )
    assert by_hand.books() == before
    assert len(list(by_hand.calls.bridge(BRIDGE).rulebooks())) == versions
    draft = by_hand.calls.bridge(BRIDGE).write_rulebook(found.text)
    assert not [one for one in draft.findings if one.level == "error"]


def test_the_rules_that_october_was_carried_by_are_found_again(october: World) -> None:
    """From our own documents as from anybody's: what the rules do not explain is what never was carried."""
    found = proposed(october)
    told = {one.at: one.value for one in found.rules if one.value}
    assert told["/orders/statuses"] == "completed, paid"
    assert told["/accounts/sales"] == "4000"
    assert told["/accounts/shipping"] == "4100"
    assert told["/tax_codes/by_class/zero"] == "Z00"
    assert "/accounts/tips" not in told
    crossings = {one.number: one.state for one in october.calls.crossings(bridge=BRIDGE, kind="orders")}
    unexplained = {one.number for one in found.exceptions}
    assert unexplained == {number for number, state in crossings.items() if state in {"held", "waiting"}}
    assert found.examples == len(crossings)


def test_on_the_command_line_and_again_with_no_service(by_hand: World, tmp_path: Path) -> None:
    """The same rules from the file of examples, in which no person stands."""
    file, rules = tmp_path / "examples.jsonl", tmp_path / "rules.yaml"
    days = ("--first", "2026-10-01", "--last", "2026-10-31")
    said = inkwell(by_hand, tmp_path, "rulebooks", "propose", BRIDGE, *days, "--draft",
                   "--examples", str(file), "--write", str(rules), status=1)  # fmt: skip
    assert "The rules explain 5 of 6 orders." in said
    assert "is kept as a draft" in said
    text = file.read_text("utf-8")
    assert "thimble.example" not in text
    assert "O'Driscoll" not in text
    kinds = [json.loads(line)["kind"] for line in text.splitlines()]
    assert (kinds.count("orders"), kinds.count("books")) == (6, 6)
    reference = tmp_path / "books.json"
    reference.write_text(inkwell(by_hand, tmp_path, "names", "reference", "uk-books"), "utf-8")
    offline = tmp_path / "offline.yaml"
    said = inkwell(by_hand, tmp_path, "rulebook", "propose", str(file), "--reference", str(reference),
                   "--write", str(offline), "--time-zone", "Europe/London", "--country", "GB", status=1)  # fmt: skip
    assert "The rules explain 5 of 6 orders." in said
    without_name = [line for line in rules.read_text("utf-8").splitlines() if not line.startswith("name:")]
    assert [line for line in offline.read_text("utf-8").splitlines() if not line.startswith("name:")] == without_name


def test_one_at_a_time_and_none_of_another_client(by_hand: World, stack: Stack, owner: str) -> None:
    """A second one is refused with the number of the first; nobody else sees either."""
    calls = by_hand.calls.bridge(BRIDGE)
    by_hand.misbehave("web-shop", {"call": "orders", "kind": "latency", "seconds": 1})
    first = calls.propose(first=OCTOBER[0], last=OCTOBER[1])
    with pytest.raises(Conflict, match=f"Proposal {first.id} for .* is under way") as refused:
        calls.propose()
    assert (refused.value.problem.model_extra or {})["proposal"] == first.id
    cancelled = by_hand.calls.cancel_proposal(first.id)
    assert cancelled.state == "cancelled"
    assert by_hand.calls.cancel_proposal(first.id).state == "cancelled"
    other = new_world(stack, owner)
    with pytest.raises(NotFound):
        other.calls.proposal(first.id)
    assert first.id in {one.id for one in calls.proposals()}


def test_where_nothing_can_be_learnt_it_says_why(world: World) -> None:
    """No order has anything in the books; and an end that is away is named."""
    world.put_orders(an_order(1), reset=True)
    found = proposed(world)
    assert found.state == "failed"
    assert found.trouble == "None of the orders has a document in the books, so there is nothing to learn from."
    world.misbehave("web-shop", {"call": "orders", "kind": "broken"})
    away = proposed(world)
    assert away.state == "failed"
    assert "See that both ends of the bridge are connected" in away.trouble
