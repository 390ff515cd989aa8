"""The page of requests for payment, what it leads to, and the page that a buyer opens."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_requests import BRIDGE, BY_BANK, FIRST, SECOND, asking_world, pay, request, run
from tests.console.conftest import violations
from tests.support.world import World


@pytest.fixture
def asking(stack: Stack, owner: str) -> World:
    """Three requests, of one of which 100.00 were paid."""
    world = asking_world(stack, owner)
    run(world)
    pay(world, SECOND, minor="10000")
    for _ in range(2):
        run(world)
    return world


def row(page: Page, invoice: str) -> object:
    """The row of an invoice."""
    return page.get_by_role("row").filter(has_text=invoice)


def test_requests_are_found_cancelled_and_made_again(signed_in: Page, asking: World) -> None:
    """By their standing and by number; what is cancelled says why, and is asked for again under the same link."""
    page = signed_in
    page.goto(f"/{asking.slug}/requests")
    expect(page.get_by_role("row")).to_have_count(4)
    for said in ("SI-09002", "12 Oct 2026", "384.60", "100.00", "part paid", "RQ-"):
        expect(row(page, SECOND)).to_contain_text(said)  # type: ignore[arg-type]
    link = request(asking, SECOND).link
    expect(page.get_by_role("link", name=re.sub("^http://", "", link))).to_have_attribute("href", link)
    assert violations(page) == []
    page.get_by_label("Standing").select_option("paid")
    expect(page.get_by_role("row")).to_have_count(2)
    page.get_by_role("button", name="Show all").click()
    page.get_by_label("Invoice").fill(FIRST)
    page.get_by_label("Invoice").press("Enter")
    expect(page.get_by_role("row")).to_have_count(2)
    assert "invoice=SI-09001" in page.url
    page.get_by_role("button", name=f"Cancel the request of {FIRST}").click()
    form = page.get_by_role("form", name=f"Cancel the request of {FIRST}")
    assert violations(page) == []
    form.get_by_role("button", name="Leave it as it is").click()
    expect(form).to_have_count(0)
    page.get_by_role("button", name=f"Cancel the request of {FIRST}").click()
    form.get_by_label("Why").fill("Pays by bank")
    form.get_by_role("button", name="Cancel the request").press("Enter")
    expect(row(page, FIRST)).to_contain_text("cancelled")  # type: ignore[arg-type]
    expect(row(page, FIRST)).to_contain_text("Pays by bank")  # type: ignore[arg-type]
    page.get_by_role("button", name=f"Ask again for {FIRST}").click()
    expect(row(page, FIRST)).to_contain_text("open")  # type: ignore[arg-type]
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []


def test_an_invoice_is_asked_for_by_its_number(signed_in: Page, asking: World) -> None:
    """One that the books do not have is said to be none; the other is made, whatever the rules say."""
    page = signed_in
    page.goto(f"/{asking.slug}/requests")
    page.get_by_role("button", name="Ask for an invoice").click()
    form = page.get_by_role("form", name="Ask for an invoice")
    # Only the bridge to the provider can ask.
    expect(form.get_by_label("Bridge")).to_have_value(BRIDGE)
    form.get_by_label("Number of the invoice").fill("SI-99999")
    form.get_by_role("button", name="Ask for it").click()
    expect(form.get_by_role("alert")).to_contain_text("has no posted invoice 'SI-99999'")
    form.get_by_label("Number of the invoice").fill(BY_BANK)
    form.get_by_role("button", name="Ask for it").press("Enter")
    for said in ("1,250.40", "open", "made by hand"):
        expect(row(page, BY_BANK)).to_contain_text(said)  # type: ignore[arg-type]
    assert violations(page) == []


def test_the_spread_of_an_invoice_and_of_its_payment(signed_in: Page, asking: World) -> None:
    """What is open beside what is asked, the payment under it, and the receipt that it became."""
    page = signed_in
    page.goto(f"/{asking.slug}/documents/{request(asking, SECOND).crossing}")
    left, right = (page.get_by_role("region", name=name) for name in ("Invoice SI-09002", "Documents at the provider"))
    for said in ("Total384.60", "Open284.60", "payment_link:"):
        expect(left).to_contain_text(said)
    expect(right).to_contain_text("Request for payment RQ-")
    expect(right).to_contain_text("until 9 Feb 2027")
    page.get_by_label("Amount 384.60").focus()
    expect(
        page.get_by_text("284.60 GBP of 384.60 is open in the books, and 100.00 GBP was paid on the request.")
    ).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="Payment by link WGR-").click()
    expect(page.get_by_role("region", name="Payment WGR-")).to_contain_text("by card")
    expect(page.get_by_role("region", name="Documents in the books")).to_contain_text("Payment RC-")
    assert violations(page) == []


def test_without_requests_the_page_says_how_there_are_some(signed_in: Page, world: World) -> None:
    """And a bridge that cannot ask offers no lane for it."""
    page = signed_in
    page.goto(f"/{world.slug}/requests")
    expect(page.get_by_text("No requests yet")).to_be_visible()
    assert violations(page) == []
    page.goto(f"/{world.slug}/bridges/web-shop-to-uk-books")
    expect(page.get_by_role("checkbox", name="refunds")).to_be_visible()
    for lane in ("requests", "request payments", "payouts"):
        expect(page.get_by_role("checkbox", name=lane)).to_have_count(0)


@pytest.mark.goes_to("payment-provider")
@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_a_buyer_opens_the_link_and_pays(page: Page, asking: World, scheme: str) -> None:
    """By the keyboard alone, on a narrow screen, and nobody is signed in."""
    page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(request(asking).link)
    expect(page.get_by_role("heading", level=1)).to_have_text("Pay this invoice")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Pay 480.00 GBP")).to_be_focused()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Pay now").click()
    expect(page.get_by_text("Thank you: 480.00 GBP was paid")).to_be_visible()
    page.goto(request(asking).link)
    expect(page.get_by_role("heading", level=1)).to_have_text("Paid")
    assert violations(page) == []
