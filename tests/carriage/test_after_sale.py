"""Sales that are changed by their merchant, at the shop's and the marketplace's own counters; the books follow.

Every figure was worked out by hand from the sales as they stand in the demo's October.
"""

from __future__ import annotations

from collections import defaultdict
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.demo import lanternfair
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.support.world import BRIDGE, World, new_world

FAIR_EUR, FAIR_USD = "lanternfair-to-ledger", "lanternfair-to-uk-books"
AT = {"at": "2026-10-30T12:00:00+00:00"}
POWDER = {"article": "DYE-POW-MAD", "title": "Madder dye powder, 50 g", "price": "7.45"}
SKEIN = {"article": "YRN-MER4-HEA", "title": "Merino 4-ply skein, Heather", "price": "18.50"}


@pytest.fixture
def fair(stack: Stack, owner: str) -> World:
    """The first sales of the marketplace, carried into both companies' books."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    world.run(FAIR_EUR)
    world.run(FAIR_USD)
    return world


def does(world: World, sale: str, deed: str, **told: Any) -> None:
    """Something that the marketplace's merchant does."""
    answer = world.after_sale("marketplace", sale, deed, **AT, **told)
    assert answer.status_code == 204, answer.text


def by_order(documents: list[tuple[int, dict[str, Any]]]) -> dict[str, Decimal]:
    """What documents come to for each order, each with its sign."""
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for sign, one in documents:
        sums[one["order"]] += sign * Decimal(one["gross"])
    return sums


def in_ledger(world: World) -> dict[str, Decimal]:
    """What the ledger holds of each sale."""
    held = world.held_by("ledger")
    return by_order([(sign, one) for kind, sign in (("invoices", 1), ("credit-notes", -1))
                     for one in held.get(kind, []) if one["state"] == "released"])  # fmt: skip


def in_erp(world: World) -> dict[str, Decimal]:
    """What the ERP holds of each sale, in its own currency."""
    held = world.books()
    return by_order([(sign, one) for kind, sign in (("invoice", 1), ("credit_note", -1))
                     for one in held.get(kind, []) if one["state"] == "posted"])  # fmt: skip


def money_of(world: World, kind: str, sale: str) -> list[Decimal]:
    """The amounts of a sale's documents of money, in the ERP or in the ledger."""
    kept = [one.get("said", one) for one in (world.held_by("ledger") | world.books()).get(kind, [])]
    return [Decimal(one.get("amount") or one["sum"]) for one in kept if one["order"] == sale]


def tied(world: World, bridge: str) -> None:
    """Nothing waits for a person, and nothing between the sides is without a name."""
    assert [(one.number, one.findings) for one in world.calls.crossings(state=["held"], bridge=bridge)] == []
    period = world.calls.tie_out(**OCTOBER, bridge=bridge)
    totals = period.sales
    # Of every tender what moved at the marketplace, less what it keeps, moved in the books.
    assert [one for one in (*period.tenders, *period.accounts) if not one.ties] == []
    assert [(one.currency, one.unexplained.gross, one.unexplained.tax) for one in totals if
            one.unexplained.gross or one.unexplained.tax] == []  # fmt: skip


def test_sales_in_eur_changed_at_the_marketplace(fair: World) -> None:
    """An exchange, a part that is called off and handed back, all of a sale called off, and money that was reversed."""
    does(fair, "LF-26-4101", "exchange", row=1, count=1, **SKEIN)
    does(fair, "LF-26-4105", "pieces", row=2, count=1)
    does(fair, "LF-26-4105", "pay-back", amount="21.50")
    does(fair, "LF-26-4106", "cancel")
    does(fair, "LF-26-4106", "pay-back", amount="37.90")
    does(fair, "LF-26-4103", "bounce")
    fair.run(FAIR_EUR)
    found = in_ledger(fair)
    # 7.45 came back and 18.50 went out for it, beside 5.90 of postage.
    assert found["LF-26-4101"] == Decimal("24.40")
    # 67.40 less one of two kits.
    assert found["LF-26-4105"] == Decimal("45.90")
    assert found["LF-26-4106"] == 0
    # 49.39 less the needles that were handed back earlier; the bounce changes no invoice.
    assert found["LF-26-4103"] == Decimal("42.90")
    money = fair.held_by("ledger")
    paid_out = [Decimal(one["said"]["sum"]) for one in money["payments-out"]]
    # 69.90 and 6.49 were handed back before; the bounce of 49.39 takes a receipt back.
    assert sorted(paid_out) == sorted(map(Decimal, ("69.90", "6.49", "21.50", "37.90", "49.39")))
    # What was handed back pays for what came off: nothing of it is a kindness.
    assert [one["order"] for one in money["credit-notes"] if ">490<" in one["body"]] == []
    assert Decimal("11.05") in [Decimal(one["said"]["sum"]) for one in money["payments-in"]]
    tied(fair, FAIR_EUR)


def test_sales_in_usd_whose_tax_the_marketplace_keeps(fair: World) -> None:
    """Pieces, prices, articles, pieces that come back: what is the marketplace's tax never reaches the books."""
    does(fair, "LF-26-4131", "pieces", row=2, count=2)
    does(fair, "LF-26-4131", "pay", amount="9.99")
    does(fair, "LF-26-4132", "bounce")
    does(fair, "LF-26-4133", "take-back", row=1, count=1)
    does(fair, "LF-26-4134", "cancel")
    does(fair, "LF-26-4135", "price", row=1, price="20.00")
    # 1.50 more, and 0.58, 0.24 and 0.77 of tax in place of 0.54, 0.22 and 0.71.
    does(fair, "LF-26-4135", "pay", amount="1.62")
    does(fair, "LF-26-4136", "add", article="YRN-SOCK-FEN", title="Sock yarn skein, Fenland", price="9.99")
    does(fair, "LF-26-4136", "pay", amount="10.79")
    fair.run(FAIR_USD)
    found = in_erp(fair)
    assert {number: amount for number, amount in found.items() if number.startswith("LF")} == {
        "LF-26-4131": Decimal("55.98"), "LF-26-4132": Decimal("36.20"), "LF-26-4133": Decimal("36.00"),
        "LF-26-4134": Decimal("0"), "LF-26-4135": Decimal("44.49"), "LF-26-4136": Decimal("30.98"),
    }  # fmt: skip
    tied(fair, FAIR_USD)


def test_a_price_that_holds_tax_which_the_marketplace_keeps(fair: World) -> None:
    """In Norway 64.00 hold 12.80 of the marketplace's tax; at 60.00 it is 12.00. 4.00 are handed back for it: 3.20 of
    it are the seller's, and none of it is a kindness."""
    does(fair, "LF-26-4104", "price", row=1, price="60.00")
    does(fair, "LF-26-4104", "pay-back", amount="4.00")
    fair.run(FAIR_EUR)
    assert money_of(fair, "payments-out", "LF-26-4104") == [Decimal("3.20")]
    # 60.00 and 5.90, less 12.00 and 1.18.
    assert in_ledger(fair)["LF-26-4104"] == Decimal("52.72")
    assert [one["order"] for one in fair.held_by("ledger")["credit-notes"] if ">490<" in one["body"]] == []
    tied(fair, FAIR_EUR)


def test_a_sale_is_called_off_whose_tax_the_marketplace_keeps(fair: World) -> None:
    """33.00 of 35.62 had reached the seller: so much goes back from him, whether the marketplace names rows or not, at
    once or in parts."""
    # 18.50 with 1.47 of tax, and 14.50 with 1.15.
    does(fair, "LF-26-4134", "cancel")
    fair.run(FAIR_USD)
    does(fair, "LF-26-4134", "take-back", row=1, count=1)
    fair.run(FAIR_USD)
    assert money_of(fair, "repayment", "LF-26-4134") == [Decimal("18.50")]
    does(fair, "LF-26-4134", "pay-back", amount="15.65")
    # 6.49 with 0.52 of tax come back before all is called off; what is left of 22.66, 15.65, goes back in two parts.
    does(fair, "LF-26-4136", "take-back", row=1, count=1)
    fair.run(FAIR_USD)
    does(fair, "LF-26-4136", "cancel")
    does(fair, "LF-26-4136", "pay-back", amount="5.65")
    fair.run(FAIR_USD)
    does(fair, "LF-26-4136", "pay-back", amount="10.00")
    fair.run(FAIR_USD)
    assert money_of(fair, "repayment", "LF-26-4134") == [Decimal("18.50"), Decimal("14.50")]
    # 5.65 of 15.65 are 0.42 of 1.15 of tax; 10.00 the rest.
    assert money_of(fair, "repayment", "LF-26-4136") == [Decimal("6.49"), Decimal("5.23"), Decimal("9.27")]
    assert (in_erp(fair)["LF-26-4134"], in_erp(fair)["LF-26-4136"]) == (0, 0)
    tied(fair, FAIR_USD)


def test_a_sale_that_is_taken_up_again_is_paid_less_the_tax_again(fair: World) -> None:
    """Called off and handed back in full; sold after all, and paid once more: 33.00 of 35.62 reach the seller again."""
    does(fair, "LF-26-4134", "cancel")
    does(fair, "LF-26-4134", "pay-back", amount="35.62")
    fair.run(FAIR_USD)
    (sale,) = (one for one in fair.held_by("marketplace")["sale"] if one["sale"] == "LF-26-4134")
    fair.put("marketplace", sales=[{**sale, "progress": "to send"}])
    does(fair, "LF-26-4134", "pay", amount="35.62")
    fair.run(FAIR_USD)
    assert money_of(fair, "receipt", "LF-26-4134") == [Decimal("33.00"), Decimal("33.00")]
    assert money_of(fair, "repayment", "LF-26-4134") == [Decimal("33.00")]
    assert in_erp(fair)["LF-26-4134"] == Decimal("33.00")
    tied(fair, FAIR_USD)


def test_money_that_comes_later_is_less_what_the_marketplace_keeps(stack: Stack, owner: str) -> None:
    """35.62 for a sale that was invoiced unpaid: 33.00 reach the seller."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    sale = next(one for one in lanternfair.first_sales()["sales"] if one["sale"] == "LF-26-4134")
    world.put("marketplace", reset=True, company=demo_client.facts()["lanternfair"], sales=[{**sale, "paid": []}])
    world.run(FAIR_USD)
    does(world, "LF-26-4134", "pay", amount="35.62")
    world.run(FAIR_USD)
    assert money_of(world, "receipt", "LF-26-4134") == [Decimal("33.00")]
    assert in_erp(world)["LF-26-4134"] == Decimal("33.00")
    tied(world, FAIR_USD)


def test_the_web_shops_merchant_changes_an_order(stack: Stack, owner: str) -> None:
    """Powder in place of powder, one piece more, another price, all in turn, each paid for."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    for deed, told in (
        ("pieces", {"row": 1, "count": 3}),
        ("pay", {"amount": "14.90"}),
        ("price", {"row": 1, "price": "7.00"}),
        ("pay-back", {"amount": "1.35"}),
        ("exchange", {"row": 1, "count": 1, **SKEIN}),
    ):
        assert world.after_sale("web-shop", "MW-10001", deed, **AT, **told).status_code == 204
        world.run()
    # 3 at 7.00, carriage of 3.95 and a skein of 18.50, less the piece that came back.
    assert in_erp(world)["MW-10001"] == Decimal("36.45")
    (order,) = (one for one in world.held_by("web-shop")["order"] if one["reference"] == "MW-10001")
    assert (order["total"], order["tax"]) == ("43.45", "7.24")
    assert [one["sum"] for one in order["received"]] == ["11.40", "14.90", "11.50"]
    held = world.calls.crossings(state=["held"])
    assert [one.number for one in held if one.number.startswith("MW-10001")] == []


@pytest.mark.parametrize(("sale", "deed", "told", "status", "why"), [
    ("MW-1", "cancel", {}, 404, "no order MW-1"),
    ("MW-10001", "dance", {}, 422, "does one of cancel"),
    ("MW-10001", "pieces", {"row": 9, "count": 1}, 422, "no row 9"),
    ("MW-10001", "pieces", {"row": 1, "count": -1}, 422, "-1 pieces"),
    ("MW-10001", "take-back", {"row": 1, "count": 2}, 422, "has 1 pieces"),
    ("MW-10001", "pay", {"amount": "1e9"}, 422, "no amount"),
    ("MW-10001", "pay", {"amount": "much"}, 422, "does not fit"),
    ("MW-10001", "pay", {}, 422, "does not fit"),
])  # fmt: skip
def test_what_a_merchant_cannot_do_changes_nothing(
    world: World, sale: str, deed: str, told: dict[str, Any], status: int, why: str
) -> None:
    """Turned away with its reason."""
    before = world.held_by("web-shop")
    answer = world.after_sale("web-shop", sale, deed, **told)
    assert (answer.status_code, why in answer.json()["error"]) == (status, True), answer.text
    assert world.held_by("web-shop") == before
