"""Settlements of the marketplace through the service into the ledger: one journal each, by currency."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.demo import lanternfair
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.ends.test_settlements import row, settled
from tests.support.world import World, new_world, wait_for

FAIR = "lanternfair-to-ledger"
Json = dict[str, Any]


@pytest.fixture
def irish(stack: Stack, owner: str) -> World:
    """The Irish company with its ledger, and a marketplace with one sale in EUR, of which nobody kept a tax, and one in
    USD."""
    world = new_world(stack, owner, set_up=False)
    whole = lanternfair.market()
    world.put("marketplace", reset=True, **{**whole, "sales": [sale("EUR"), sale("USD")], "handbacks": [],
                                            "settlements": []})  # fmt: skip
    world.client.open_workspace(slug=world.slug, name="Marrowby")
    demo_client.set_up(stack, world.calls, world=world.slug)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    return world


def sale(money: str) -> Json:
    """The first sale in a currency that was sent, and of whose taxes the fair keeps none (in USD: any)."""
    return next(one for one in lanternfair.market()["sales"] if one["money"] == money and one["progress"] == "sent"
                and (money == "USD" or one["tax_by"] == "stand"))  # fmt: skip


def ref(money: str) -> str:
    """The marketplace's number of the money of that sale."""
    found: str = sale(money)["paid"][0]["ref"]
    return found


def journals(world: World) -> list[list[tuple[str, str]]]:
    """The released journals of the ledger, line by line."""
    told = [one for one in world.held_by("ledger").get("journals", []) if one["state"] == "released"]
    return [[(line["account"], line["own"]) for line in one["said"]["rows"]] for one in told]


def test_a_settlement_is_a_journal_and_what_is_in_another_currency_is_left_out(irish: World) -> None:
    """A sale less a commission of 3.00, 5.00 for the stand, 10.00 held back; in USD it is of no books here."""
    euros = Decimal(sale("EUR")["sums"]["due"]).scaleb(-2)
    eur = settled(row("sale", f"{euros}", ref("EUR")), row("commission", "-3.00", ref("EUR")),
                  row("stand rent", "-5.00"), row("held back", "-10.00"))  # fmt: skip
    usd = settled(row("sale", "20.00", ref("USD")), key=2, money="USD")
    irish.put("marketplace", settlements=[eur, usd])
    run = irish.run(FAIR)
    # The sale in EUR and its settlement; those in USD are left out by rule.
    assert (run.counts.read, run.counts.carried, run.counts.left_out, run.counts.held) == (4, 2, 2, 0)
    assert journals(irish) == [
        [("116", f"{-euros}"), ("780", "3.00"), ("780", "5.00"), ("117", "10.00"), ("120", f"{euros - 18}")]
    ]
    by_number = {one.number: one for one in irish.calls.crossings(bridge=FAIR, kind="payouts")}
    left_out = by_number["LS-2610A-USD"]
    assert (left_out.state, left_out.left_out_by) == ("left out", "/payouts/currencies")
    assert irish.run(FAIR).counts.carried == 0
    assert len(journals(irish)) == 1
    # Clearing has nothing of the sale any more, and proves.
    calls = irish.calls.clearing
    asked = calls.prove(books="irish-books", account="116", first=date(2026, 10, 1), last=date(2026, 10, 31))
    found = wait_for(lambda: None if (one := calls.proof(asked.id)).under_way else one, seconds=30, what="the proof")
    assert (found.proves, found.result and f"{found.result.closing}") == (True, "0.00")
    assert found.columns == ["charges", "referral fees", "subscriptions", "reserves kept", "paid out"]


def test_a_report_that_is_mended_is_carried(irish: World) -> None:
    """Cut off it is held, with the line; whole it goes, and stops nothing meanwhile."""
    irish.put("marketplace", settlements=[settled(row("sale", "4.00", ref("EUR")))])
    irish.misbehave("marketplace", {"call": "report", "kind": "said", "body": "settlement\trow\n", "times": 99,
                                    "content_type": "text/tab-separated-values"})  # fmt: skip
    run = irish.run(FAIR)
    assert (run.counts.carried, run.counts.held) == (1, 1)
    (held,) = irish.calls.crossings(bridge=FAIR, kind="payouts")
    (found,) = irish.calls.crossing(held.id).findings
    assert (held.state, "line 1 of the report: expected the column 'on'" in found.text) == ("held", True)
    irish.misbehave("marketplace")
    irish.run(FAIR)
    assert journals(irish) == [[("116", "-4.00"), ("120", "4.00")]]
    # It is the same settlement as before.
    assert [one.state for one in irish.calls.crossings(bridge=FAIR, kind="payouts")] == ["carried"]


def test_settlements_in_a_currency_that_the_books_do_not_keep(irish: World) -> None:
    """Without a rule that leaves them out they are held, for their money is somebody's."""
    bridge = irish.calls.bridge(FAIR)
    rules = rulebook_text(FAIR).replace("  currencies: [EUR] ", "  # currencies: ")
    bridge.publish_rulebook(bridge.write_rulebook(rules).number)
    irish.put("marketplace", settlements=[settled(row("sale", "20.00", ref("USD")), key=2, money="USD")])
    irish.run(FAIR)
    (held,) = irish.calls.crossings(bridge=FAIR, kind="payouts")
    found = [one.id for one in irish.calls.crossing(held.id).findings]
    assert (held.state, held.cause, found) == ("held", "currency-not-kept", ["PAYOUT-E006"])
