"""The money of an order, and what went back of it, on the two-page spread."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import FIRST, crossing, refund
from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, new_world, shop_order


@pytest.fixture
def paid(stack: Stack, owner: str) -> World:
    """A client whose one order was paid, and given back in part."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), reset=True)
    world.put("web-shop", refunds=[refund()])
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


def test_payments_stand_below_the_invoice_with_their_rule(signed_in: Page, paid: World) -> None:
    """Pointing at the account tells which rule chose it."""
    page = signed_in
    page.goto(f"/{paid.slug}/documents/{crossing(paid, FIRST).id}")
    expect(page.get_by_role("heading", name="Payment RC-00001")).to_be_visible()
    page.locator('[data-at="/documents/1/account"]').hover()
    expect(page.get_by_text("Money by method 'card' goes to 1250.")).to_be_visible()
    page.locator('[data-at="/payments/0/amount"]').hover()
    expect(page.get_by_text("The card payment of 13.94 GBP.")).to_be_visible()
    assert violations(page) == []


def test_a_refund_reads_like_its_order(signed_in: Page, paid: World) -> None:
    """What came back on the left, credit note and repayment on the right."""
    page = signed_in
    page.goto(f"/{paid.slug}/documents/{crossing(paid, 'MW-R-801').id}")
    expect(page.get_by_role("heading", name="Refund MW-R-801", exact=True).last).to_be_visible()
    expect(page.get_by_text("Given back by card")).to_be_visible()
    expect(page.get_by_role("heading", name="Credit note SC-00001")).to_be_visible()
    expect(page.get_by_role("heading", name="Refund payment RP-00001")).to_be_visible()
    assert violations(page) == []


def test_a_line_tells_its_item_and_why(signed_in: Page, stack: Stack, owner: str) -> None:
    """Pointing at the item tells how it was found, and lights up the article at the shop."""
    text = rulebook_text(BRIDGE).replace("accounts:\n  sales", "items: {find_by: sku}\n\naccounts:\n  sales", 1)
    world = new_world(stack, owner, rules=text)
    world.put("erp", articles=[{"code": "yrn-sock-fen", "name": "Sock yarn, Fenland"}])
    world.put_orders(shop_order(FIRST), reset=True)
    world.loaded("uk-books", "items")
    world.run()
    page = signed_in
    page.goto(f"/{world.slug}/documents/{crossing(world, FIRST).id}")
    page.locator('[data-at="/documents/0/lines/0/item"]').hover()
    expect(page.get_by_text("Item yrn-sock-fen, found by its SKU.")).to_be_visible()
    expect(page.locator('[data-at="/lines/0/sku"]')).to_have_text("YRN-SOCK-FEN")
    assert violations(page) == []


def test_the_month_by_tax_code_and_tender(signed_in: Page, paid: World) -> None:
    """One click from the first page: 3.29 and 0.66 of carriage stayed; the skein came back, its money too."""
    page = signed_in
    page.goto(f"/{paid.slug}/today")
    page.get_by_role("link", name="The whole sheet").click()
    codes = page.get_by_role("region", name="By tax code")
    expect(codes.get_by_role("row", name="S20 GBP 3.29 0.66 3.29 0.66 0.00")).to_be_visible()
    expect(
        page.get_by_role("region", name="By tender").get_by_role("row", name="card GBP 3.95 3.95 0.00")
    ).to_be_visible()
    assert violations(page) == []
