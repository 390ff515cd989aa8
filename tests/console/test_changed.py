"""Orders that changed after they were posted, as the console shows them."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.demo.month import web_shop
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import crossing, live
from tests.carriage.test_receipts import enter, sold_on_account
from tests.console.conftest import violations
from tests.support.changing import FIRST, cancelled, cheaper, three_skeins
from tests.support.world import BRIDGE, World, new_world, shop_order


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """One order of 13.94, invoiced and paid by card, and 4.00 cheaper since."""
    made = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    made.put_orders(shop_order(FIRST), reset=True)
    made.run()
    made.put_orders(cheaper())
    made.run()
    return made


def test_each_change_stands_before_the_documents_of_it(signed_in: Page, world: World) -> None:
    """The invoice, its receipt, what changed, and the credit note that makes it good."""
    world.put_orders(cancelled(55))
    world.run()
    page = signed_in
    page.goto(f"/{world.slug}/documents/{crossing(world, FIRST).id}")
    books = page.get_by_role("region", name="Documents in the books")
    heads = books.get_by_role("heading", level=3)
    expect(heads).to_have_text([
        "Invoice SI-00001", "Payment RC-00001", "Change 1 at the sales side", "Credit note SC-00001",
        "Change 2 at the sales side", "Credit note SC-00002",
    ])  # fmt: skip
    books.get_by_role("heading", name="Change 1 at the sales side").click()
    expect(books.get_by_role("row", name="total 13.94 9.94")).to_be_visible()
    books.get_by_role("heading", name="Change 2 at the sales side").click()
    expect(books.get_by_role("row", name="status paid cancelled")).to_be_visible()
    expect(page.get_by_role("region", name="Findings")).to_contain_text("13.94 GBP of what was paid is owed")
    assert violations(page) == []


def test_what_somebody_changed_in_the_books_is_decided(signed_in: Page, world: World) -> None:
    """Named in words; kept as theirs, only the difference of the order is posted."""
    (invoice,) = live(world, "invoice")
    skein, *others = invoice["lines"]
    world.put("erp", edited={"invoice": {invoice["id"]: {"lines": [{**skein, "account": "4100"}, *others]}}})
    world.put_orders(three_skeins(55))
    world.run()
    page = signed_in
    page.goto(f"/{world.slug}/documents/{crossing(world, FIRST).id}")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("account 4100 in place of 4000")
    page.get_by_label("Decide for this one").select_option("keep theirs")
    page.get_by_role("textbox", name="Reason").fill("The accountant moved it.")
    assert violations(page) == []
    page.get_by_role("button", name="Decide", exact=True).click()
    books = page.get_by_role("region", name="Documents in the books")
    expect(books.get_by_role("heading", name="Change 2 at the sales side")).to_be_visible(timeout=30_000)
    assert crossing(world, FIRST).state == "carried"


def test_a_receipt_reads_from_the_books_to_the_shop(signed_in: Page, stack: Stack, owner: str) -> None:
    """What was entered there, what it is set against, and what the shop was told of it."""
    on_account = sold_on_account(stack, owner)
    enter(on_account, "BANK-44", "13.94", (FIRST, "13.94"))
    on_account.run()
    (receipt,) = [one for one in on_account.calls.crossings() if one.kind == "receipts"]
    page = signed_in
    page.goto(f"/{on_account.slug}/documents/{receipt.id}")
    left = page.get_by_role("region", name=f"Receipt {receipt.number}")
    expect(left).to_contain_text("Statement 44 on account 1200")
    expect(left.get_by_role("listitem")).to_contain_text("13.94")
    right = page.get_by_role("region", name="Documents at the shop")
    expect(right.get_by_role("heading", level=3)).to_contain_text(receipt.number)
    expect(right).to_contain_text("proved")
    assert violations(page) == []


def test_the_rate_of_a_converted_order_stands_below_its_invoice(signed_in: Page, stack: Stack, owner: str) -> None:
    """18.50 EUR at 0.8697 are 16.09; its payment gained 0.08."""
    made = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    sold = next(one for one in web_shop()["orders"] if one["reference"] == "MW-10078")
    made.put_orders(sold, reset=True)
    made.run()
    page = signed_in
    page.goto(f"/{made.slug}/documents")
    expect(page.get_by_role("row").filter(has_text="MW-10078")).to_contain_text("16.09 GBP")
    page.get_by_role("link", name="MW-10078").click()
    books = page.get_by_role("region", name="Documents in the books")
    expect(books).to_contain_text("In GBP by rule: 1 EUR = 0.8697 GBP")
    expect(books).to_contain_text("0.08 gained on account 8300")
    assert violations(page) == []
