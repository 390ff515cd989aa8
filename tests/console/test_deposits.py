"""What is paid ahead, on the first page and on the two-page spread: not taxed yet, then delivered."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_documents import DEPOSITS, FIRST, a_world, crossing, paid_ahead, sent
from tests.console.conftest import violations
from tests.support.world import World


@pytest.fixture
def ahead(stack: Stack, owner: str) -> World:
    """A client whose one order is a deposit of 9.99 with 1.67 of tax in it, to be taxed when it is delivered."""
    late = DEPOSITS.replace("become: invoice\n", "become: invoice\n  deposits: taxed when delivered\n")
    world = a_world(stack, owner, late, paid_ahead())
    world.run()
    return world


def test_tax_that_is_not_due_has_a_name_between_both_sides(signed_in: Page, ahead: World) -> None:
    """The month ties, and says which tax the shop has and the books do not; once it is delivered both have it."""
    page = signed_in
    page.goto(f"/{ahead.slug}/today")
    expect(page.get_by_role("row", name="tax of deposits not due yet 0 −1.67 1.67 0.00")).to_be_visible()
    expect(page.get_by_role("row", name="Tax 2.33 0.66 1.67")).to_be_visible()
    expect(page.get_by_text("It ties.")).to_be_visible()
    assert violations(page) == []
    ahead.put_orders(sent(paid_ahead()))
    ahead.run()
    page.reload()
    # 8.32 is sold and 9.99 deducted; the books compute 1.66, and the penny stands on the rounding account.
    expect(page.get_by_role("row", name="Tax 2.33 2.32 0.01")).to_be_visible()
    expect(page.get_by_text("tax of deposits not due yet")).to_have_count(0)


def test_the_final_invoice_stands_below_the_first(signed_in: Page, ahead: World) -> None:
    """Pointing at its amounts tells that what was paid ahead is delivered, and deducted."""
    ahead.put_orders(sent(paid_ahead()))
    ahead.run()
    page = signed_in
    page.goto(f"/{ahead.slug}/documents/{crossing(ahead, FIRST).id}")
    expect(page.get_by_role("heading", name="Invoice SI-00002")).to_be_visible()
    expect(page.get_by_text("Paid ahead: Sock yarn skein, Fenland")).to_be_visible()
    page.locator('[data-at="/documents/1/lines/0/net"]').hover()
    expect(page.get_by_text("What was paid ahead is delivered. The price of 9.99")).to_be_visible()
    page.locator('[data-at="/documents/1/lines/1/net"]').hover()
    expect(page.get_by_text("What was paid ahead is deducted.").first).to_be_visible()
    page.locator('[data-at="/documents/0/lines/0/tax"]').hover()
    expect(page.get_by_text("by rule it falls on the delivery")).to_be_visible()
    assert violations(page) == []
