"""Orders in other currencies than the company's own, through the service into both books; sums worked by hand."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from click.testing import CliRunner

from inkwell_bridge.cli.main import main
from inkwell_bridge.client import ApiError
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import crossing, live, refund
from tests.support.changing import FIRST, three_skeins
from tests.support.world import BRIDGE, World, new_world, shop_order

COMPANY = "marrowby-uk"
OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}


def rules(currencies: str, *taken_from: str) -> str:
    """The demo's rules, by which orders in other currencies cross."""
    text = rulebook_text(BRIDGE).replace("  currencies: converted ", f"  currencies: {currencies} ", 1)
    text = text.partition("\nexchange_rates:")[0] + "\npenny:" + text.partition("\npenny:")[2]
    return text + f"\nexchange_rates:\n  taken_from: [{', '.join(taken_from)}]\n"


def in_euro(order: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """An order in EUR; the day it was placed is the second of October."""
    return {**order, "currency": "EUR", **fields}


def settled(order: dict[str, Any], amount: str, rate: str) -> dict[str, Any]:
    """The order with its money as its provider settled it."""
    money = {**order["received"][0], "settled": {"currency": "GBP", "sum": amount, "rate": rate, "by": "Weirgate"}}
    return {**order, "received": [money]}


@pytest.fixture
def kept(stack: Stack, owner: str) -> World:
    """One order of 13.94 EUR, which is to cross in EUR at a rate of the table."""
    world = new_world(stack, owner, rules=rules("kept", "table"))
    world.put_orders(in_euro(shop_order(FIRST)), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    return world


def keep(world: World, *rates: str) -> None:
    """Enter rates such as ``EUR 2026-10-01 0.85``."""
    rows = [dict(zip(("currency", "day", "rate"), one.split(), strict=True)) for one in rates]
    world.calls.exchange_rates(COMPANY).keep(rows, source="Central bank")


def unexplained(world: World) -> dict[str, Decimal]:
    """What no name accounts for of October, by currency."""
    return {one.currency: one.unexplained.gross for one in world.calls.tie_out(**OCTOBER).sales}


def test_it_waits_for_a_rate_and_goes_by_itself_once_there_is_one(kept: World) -> None:
    """13.94 at 0.85 are 11.85 (11.849); the 2.32 of tax that the books compute are 1.97 (1.972), net the 9.88 left."""
    kept.run()
    held = crossing(kept, FIRST)
    assert (held.state, held.cause, live(kept, "invoice")) == ("held", "rate-missing", [])
    assert "no rate to GBP is known on 2026-10-03. Asked: the table of daily rates." in held.findings[0].text
    keep(kept, "EUR 2026-10-01 0.85")
    kept.settled()
    (invoice,), (receipt,) = live(kept, "invoice"), live(kept, "receipt")
    assert (invoice["currency"], invoice["gross"], invoice["rate"]) == ("EUR", "13.94", "0.85")
    assert invoice["rate_by"] == "Central bank, 2026-10-01"
    assert invoice["base"] == {"currency": "GBP", "net": "9.88", "tax": "1.97", "gross": "11.85"}
    assert (receipt["rate"], receipt["base"], receipt["exchange"]) == ("0.85", "11.85", None)
    assert crossing(kept, FIRST).state == "carried"
    assert unexplained(kept) == {"EUR": 0}


def test_a_rate_that_is_corrected_changes_nothing_that_was_posted(kept: World) -> None:
    """An edit goes by the rate of then: 19.98 more at 0.85 are 16.98 (16.983)."""
    keep(kept, "EUR 2026-10-01 0.85")
    kept.run()
    keep(kept, "EUR 2026-10-01 0.95", "EUR 2026-10-30 0.99")
    kept.put_orders(in_euro(three_skeins()))
    kept.run()
    first, further = live(kept, "invoice")
    assert (first["rate"], further["rate"], further["gross"]) == ("0.85", "0.85", "19.98")
    assert (first["base"]["gross"], further["base"]["gross"]) == ("11.85", "16.98")


def test_what_was_gained_is_realised_with_the_money(stack: Stack, owner: str) -> None:
    """The provider paid 12.00 for what stands there as 11.85: 0.15 are gained."""
    world = new_world(stack, owner, rules=rules("kept", "payment", "table"))
    order = settled(in_euro(shop_order(FIRST)), "12.00", "0.8608")
    world.put_orders({**order, "settled": {"currency": "GBP", "sum": "11.85", "rate": "0.85"}}, reset=True)
    text = rules("kept", "order", "payment")
    bridge = world.calls.bridge(BRIDGE)
    bridge.publish_rulebook(bridge.write_rulebook(text).number)
    world.run()
    (receipt,) = live(world, "receipt")
    assert (receipt["amount"], receipt["base"]) == ("13.94", "12.00")
    assert receipt["exchange"] == {"account": "8300", "amount": "0.15"}
    said = [reason for reason in crossing(world, FIRST).reasons if reason["target"].endswith("/exchange_difference")]
    assert [one["text"] for one in said] == ["0.15 GBP were gained between document and money."]


def test_in_the_companys_own_currency_by_rule(stack: Stack, owner: str) -> None:
    """13.94 EUR are 11.85 GBP: 8.49, of which 1.42 tax, and 3.36; 12.00 came. Given back, 8.49 come off.

    The books compute 1.41 on 7.07, so a penny is on the rounding account.
    """
    world = new_world(stack, owner, rules=rules("converted", "order", "payment"))
    order = settled(in_euro(shop_order(FIRST)), "12.00", "0.8608")
    world.put_orders({**order, "settled": {"currency": "GBP", "sum": "11.85", "rate": "0.85"}}, reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    (invoice,), (receipt,) = live(world, "invoice"), live(world, "receipt")
    assert (invoice["currency"], invoice["gross"], invoice["base"]) == ("GBP", "11.85", None)
    assert [str(Decimal(line["net"]) + Decimal(line["tax"])) for line in invoice["lines"]] == ["8.48", "3.36", "0.01"]
    assert (receipt["currency"], receipt["amount"], receipt["exchange"]["amount"]) == ("GBP", "12.00", "0.15")
    assert [part["amount"] for part in receipt["settles"]] == ["11.85"]
    world.put("web-shop", refunds=[refund(currency="EUR")])
    world.run()
    (note,) = live(world, "credit_note")
    assert (note["currency"], note["gross"]) == ("GBP", "8.49")
    assert crossing(world, "MW-R-801").state == "carried"
    # Out of the one currency, into the other: nothing is left in either.
    assert unexplained(world) == {"EUR": 0, "GBP": 0}


def test_rates_by_the_command_line(kept: World, monkeypatch: pytest.MonkeyPatch, tmp_path: Any) -> None:
    """Set, loaded, corrected, listed, removed; a wrong file changes nothing and says where."""
    monkeypatch.setenv("INKWELL_ADDRESS", kept.stack.address)
    monkeypatch.setenv("INKWELL_TOKEN", kept.token)
    monkeypatch.setenv("INKWELL_WORKSPACE", kept.slug)
    runner = CliRunner()

    def said(*words: str) -> tuple[int, str]:
        done = runner.invoke(main, ["rates", *words, *(() if "list" in words else ("--company", COMPANY))])
        return done.exit_code, done.output

    assert "No rates yet" in runner.invoke(main, ["rates", "list"]).output
    assert runner.invoke(main, ["rates", "list", "--company", "nobody"]).exit_code != 0
    assert said("set", "eur", "2026-10-05", "0.855") == (0, f"{COMPANY}: 1 new, 0 corrected, 0 as they were.\n")
    assert said("set", "EUR", "2026-10-05", "0.8550")[1].endswith("0 corrected, 1 as they were.\n")
    assert said("set", "EUR", "2026-10-05", "0.86")[1].endswith("1 corrected, 0 as they were.\n")
    file = tmp_path / "rates.csv"
    file.write_text("day,currency,rate\n2026-10-06,EUR,0.861\n2026-10-06,USD,nought\n")
    code, text = said("load", str(file))
    assert code != 0
    assert "line 3" in text
    file.write_text("day,currency,rate\n2026-10-06,EUR,0.861\n2026-10-06,USD,0.74\n")
    assert said("load", str(file), "--from", "Central bank")[1].startswith(f"{COMPANY}: 2 new")
    listed = runner.invoke(main, ["rates", "list", "--company", COMPANY, "--currency", "EUR"]).output
    assert [line.split()[:3] for line in listed.splitlines()[1:3]] == [
        ["2026-10-06", "EUR", "0.861"], ["2026-10-05", "EUR", "0.86"]]  # fmt: skip
    assert said("remove", "USD", "2026-10-06")[0] == 0
    assert [one.currency for one in kept.calls.exchange_rates(COMPANY).all()] == ["EUR", "EUR"]
    trail = [entry for entry in kept.calls.trail() if entry.action.startswith("exchange rate")]
    assert [entry.action for entry in trail][:2] == ["exchange rate.removed", "exchange rates.kept"]
    corrected = next(entry for entry in trail if entry.details.get("rates"))
    assert (corrected.details["rates"], corrected.details["was"]["rates"]) == (
        {"EUR 2026-10-05": "0.86"}, {"EUR 2026-10-05": "0.855"})  # fmt: skip


@pytest.mark.parametrize(("rate", "said"), [
    ({"currency": "EUR", "day": "2026-10-05", "rate": "0"}, "greater than"),
    ({"currency": "EUR", "day": "2026-10-05", "rate": "1e40"}, ""),
    ({"currency": "EUR", "day": "1066-10-14", "rate": "1"}, "1900"),
    ({"currency": "EURO", "day": "2026-10-05", "rate": "1"}, ""),
    ({"currency": "QQQ", "day": "2026-10-05", "rate": "1"}, "not a currency"),
    ({"currency": "GBP", "day": "2026-10-05", "rate": "1"}, "own currency"),
    ({"currency": "EUR", "day": "2026-10-05"}, "required"),
])  # fmt: skip
def test_what_is_no_rate_is_refused(kept: World, rate: dict[str, str], said: str) -> None:
    """With what is wrong, and nothing is kept."""
    with pytest.raises(ApiError) as refused:
        kept.calls.exchange_rates(COMPANY).keep([rate])
    assert refused.value.problem.status == 400
    assert said in str(refused.value.problem.model_dump())
    assert list(kept.calls.exchange_rates(COMPANY).all()) == []


def test_rules_that_lack_a_part_of_it_are_refused(kept: World) -> None:
    """Converted without rates; rates for money without an account."""
    bridge = kept.calls.bridge(BRIDGE)
    text = rules("converted", "table")
    for cut, wrong in (
        ("\nexchange_rates:\n  taken_from: [table]\n", "no rule says where their rates come from"),
        ('  exchange_differences: "8300"\n', "accounts names none for exchange_differences"),
    ):
        with pytest.raises(ApiError, match=wrong):
            bridge.write_rulebook(text.replace(cut, ""))


def test_converted_money_comes_and_goes_and_leaves_no_penny(stack: Stack, owner: str) -> None:
    """13.94 EUR at 0.7421 are 10.34 GBP; 9.85 are 7.31, 12.47 are 9.25 and 9.63 are 7.15. Converted by themselves, the
    4.09 that go back, the 2.62 that come and the 2.84 that go back would be 3.04, 1.94 and 2.11: a penny too much."""
    world = new_world(stack, owner, rules=rules("converted", "table"))
    keep(world, "EUR 2026-10-01 0.7421")
    world.put_orders(in_euro(shop_order(FIRST)), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    for price, deed, amount in (("5.90", "pay-back", "4.09"), ("8.52", "pay", "2.62"), ("5.68", "pay-back", "2.84")):
        for told in ({"does": "price", "row": 1, "price": price}, {"does": deed, "amount": amount}):
            answer = world.after_sale("web-shop", FIRST, at="2026-10-30T12:00:00+00:00", **told)
            assert answer.status_code == 204, answer.text
        world.run()
    assert [one["amount"] for one in live(world, "receipt")] == ["10.34", "1.94"]
    assert [one["amount"] for one in live(world, "repayment")] == ["3.03", "2.10"]
    sold = [Decimal(one["gross"]) for one in live(world, "invoice")]
    credited = [Decimal(one["gross"]) for one in live(world, "credit_note")]
    assert sum(sold) - sum(credited) == Decimal("7.15")
    assert [one.number for one in world.calls.crossings(state=["held"])] == []
    assert unexplained(world) == {"EUR": 0, "GBP": 0}
