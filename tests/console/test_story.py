"""The console as its people use it."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.demo.month import customers
from inkwell_bridge.demo.odd_ones import odd_orders
from inkwell_bridge.launch import demo_client
from tests.console.conftest import violations
from tests.support.world import OWNER, PASSWORD, World, joined


@pytest.fixture
def carried(october: World) -> World:
    """A world whose October was carried."""
    return october


def test_a_whole_morning(signed_in: Page, world: World) -> None:
    """Nothing was carried; run, watch it, open an order, read the reason of an amount."""
    page = signed_in
    page.goto(f"/{world.slug}/today")
    expect(page.get_by_text("It never ran.")).to_be_visible()
    expect(page.get_by_text("Nothing of this month stands on either side yet.")).to_be_visible()

    world.misbehave("erp", {"call": "invoices.create", "kind": "latency", "seconds": 0.8, "times": 8})
    page.get_by_role("button", name="Run now").click()
    expect(page.get_by_role("button", name="Running…")).to_be_disabled()
    expect(page.get_by_label("Documents done")).to_be_visible()
    expect(page.get_by_text("ended")).to_be_visible(timeout=40_000)
    panel = page.get_by_role("region", name="Web shop to UK books")
    expect(panel.get_by_role("link", name="carried")).to_be_visible()
    expect(panel).to_contain_text("55")

    needs = page.get_by_role("region", name="What needs a person")
    expect(needs.get_by_role("link", name="A tax class has no tax code")).to_be_visible()
    expect(needs).to_contain_text("71.37")

    page.get_by_role("link", name="Documents").click()
    page.get_by_label("Number on either side").fill("MW-10003")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="MW-10003").click()
    expect(page.get_by_role("heading", name="Invoice SI-")).to_be_visible()
    net = page.locator('[data-at="/documents/0/lines/0/net"]')
    net.hover()
    reason = page.get_by_role("region", name="Reason")
    expect(reason).to_contain_text("The price of 9.99, less the tax of 1.67 inside it, is 8.32.")
    expect(page.locator('[data-at="/lines/0/amount"]')).to_have_attribute("aria-pressed", "true")
    expect(page.locator('[data-at="/lines/0/taxes/0/amount"]')).to_have_attribute("aria-pressed", "true")
    expect(page.locator('[data-at="/shipping/0/amount"]')).to_have_attribute("aria-pressed", "false")


def test_an_amount_of_the_order_lights_where_it_went(signed_in: Page, carried: World) -> None:
    """By keyboard as by mouse; a click keeps it lit."""
    page = signed_in
    open_order(page, carried, "MW-10009")
    voucher = page.locator('[data-at="/discounts/0/amount"]')
    voucher.focus()
    lit = page.locator('[aria-pressed="true"]')
    expect(lit).to_have_count(4)
    voucher.click()
    page.get_by_role("heading", name="Order MW-10009").first.hover()
    voucher.blur()
    expect(lit).to_have_count(4)
    voucher.click()
    voucher.blur()
    expect(lit).to_have_count(0)


def open_order(page: Page, world: World, number: str) -> None:
    """The spread of one order."""
    (found,) = [row for row in world.calls.crossings(search=number) if row.number == number]
    page.goto(f"/{world.slug}/documents/{found.id}")
    expect(page.get_by_role("heading", name=f"Order {number}").first).to_be_visible()


def test_the_pennies_reason_stands_on_the_page(signed_in: Page, carried: World) -> None:
    """On the rounding line, and in words below."""
    open_order(signed_in, carried, "MW-10006")
    signed_in.locator('[data-at="/documents/0/lines/4/net"]').hover()
    expect(signed_in.get_by_role("region", name="Reason")).to_contain_text("+0.03 goes to the rounding account 8200.")
    expect(signed_in.get_by_text("was settled by rule.")).to_be_visible()


def test_names_of_all_alphabets_are_shown(signed_in: Page, carried: World) -> None:
    """Greek, Japanese, an apostrophe."""
    for number, name in (("MW-10003", "Aoife O'Driscoll"), ("MW-10049", "結衣 田中"), ("MW-10040", "健 佐藤")):
        open_order(signed_in, carried, number)
        expect(signed_in.get_by_text(name)).to_be_visible()


def test_a_held_order_says_why_and_can_be_released(signed_in: Page, carried: World) -> None:
    """The finding with its hint; released without a mended cause, it is held again."""
    page = signed_in
    open_order(page, carried, "MW-10034")
    expect(
        page.get_by_text("Tax class 'reduced' has no tax code (order MW-10034, Easy-grip knitting aid).")
    ).to_be_visible()
    expect(page.get_by_text("Nothing yet")).to_be_visible()
    with page.expect_response(re.compile("release")) as released:
        page.get_by_role("button", name="Release").click()
    assert released.value.json() == {"released": 1}
    carried.settled()


def test_filters_stand_in_the_address_and_come_back_from_it(signed_in: Page, carried: World) -> None:
    """So that a list can be sent to a colleague."""
    page = signed_in
    page.goto(f"/{carried.slug}/documents?state=held&state=left+out&sort=gross")
    expect(page.get_by_role("row")).to_have_count(6)
    page.get_by_role("button", name="State held, left out").click()
    page.get_by_role("option", name="left out").click()
    page.keyboard.press("Escape")
    expect(page).to_have_url(re.compile(r"documents\?state=held&sort=gross$"))
    expect(page.get_by_role("row")).to_have_count(3)
    page.go_back()
    expect(page.get_by_role("row")).to_have_count(6)
    page.get_by_role("button", name="Show all").click()
    expect(page.get_by_role("row")).to_have_count(51)
    page.get_by_role("button", name="Further in the list").click()
    expect(page.get_by_role("row")).to_have_count(11)
    page.get_by_role("switch", name="With a rounding").click()
    expect(page.get_by_role("row")).to_have_count(12)


def test_lists_are_sorted_by_their_heads(signed_in: Page, carried: World) -> None:
    """Once down, once up; said to screen readers too."""
    page = signed_in
    page.goto(f"/{carried.slug}/documents")
    page.get_by_role("button", name="Gross", exact=True).click()
    expect(page.get_by_role("columnheader", name="Gross", exact=True)).to_have_attribute("aria-sort", "descending")
    expect(page.get_by_role("row").nth(1)).to_contain_text("773.75")
    page.get_by_role("button", name="Gross", exact=True).click()
    expect(page.get_by_role("row").nth(1)).to_contain_text("0.00")


def test_an_empty_list_says_what_to_do(signed_in: Page, carried: World, world: World) -> None:
    """One thing where nothing was read, another where nothing fits."""
    signed_in.goto(f"/{carried.slug}/documents?search=nothing-like-it")
    expect(signed_in.get_by_text("No document fits these filters")).to_be_visible()
    signed_in.goto(f"/{world.slug}/documents")
    expect(signed_in.get_by_text("No documents yet")).to_be_visible()


def test_a_failing_service_is_said_and_tried_again(signed_in: Page, carried: World) -> None:
    """The page stays; one press and it is there."""
    page = signed_in
    page.route("**/api/**/crossings*", lambda route: route.fulfill(status=503, body="<html>"))
    page.goto(f"/{carried.slug}/documents")
    expect(page.get_by_role("alert")).to_contain_text("The service answered with status 503.")
    page.unroute("**/api/**/crossings*")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("link", name="MW-10060")).to_be_visible()


def test_a_shop_that_cannot_be_reached_needs_a_person(signed_in: Page, world: World) -> None:
    """Today says which end, and why."""
    world.calls.connection("web-shop").change(address="http://127.0.0.1:9")
    signed_in.goto(f"/{world.slug}/today")
    expect(signed_in.get_by_text("Marrowby web shop is unreachable.")).to_be_visible()
    signed_in.get_by_role("button", name="Run now").click()
    expect(signed_in.get_by_role("region", name="Web shop to UK books")).to_contain_text(
        "could not be reached", timeout=20_000
    )


def test_a_wrong_password_and_a_page_that_waits_for_the_right_one(page: Page, carried: World) -> None:
    """After signing in one stands where one wanted to go."""
    page.goto(f"/{carried.slug}/documents?state=held")
    page.get_by_label("E-mail").fill(OWNER)
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_contain_text("This e-mail and password do not belong together.")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile(rf"/{carried.slug}/documents\?state=held$"))


def test_who_may_only_see_has_no_buttons_to_press(page: Page, carried: World) -> None:
    """No button without effect."""
    email = f"viewer@{carried.slug}.example"
    joined(carried.calls, email=email, role="see", password=PASSWORD)
    page.goto("/")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    expect(page.get_by_text("It does not tie yet.")).to_be_visible()
    expect(page.get_by_role("button", name="Run now")).to_have_count(0)
    expect(page.get_by_role("button", name="Release")).to_have_count(0)


def test_signing_out_ends_it(signed_in: Page, carried: World) -> None:
    """From the menu, by keyboard."""
    page = signed_in
    page.goto(f"/{carried.slug}/today")
    page.get_by_role("button", name="Marrowby of").focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_label("Password")).to_be_visible()
    page.goto(f"/{carried.slug}/today")
    expect(page.get_by_label("Password")).to_be_visible()


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_every_page_is_clean_for_everyone(signed_in: Page, carried: World, scheme: str) -> None:
    """Contrast, names, roles, order: axe finds nothing, by day and by night."""
    page = signed_in
    page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
    page.goto(f"/{carried.slug}/today")
    expect(page.get_by_text("It does not tie yet.")).to_be_visible()
    assert violations(page) == []
    page.goto(f"/{carried.slug}/documents?state=held&cause=tax-class-unmapped")
    expect(page.get_by_role("link", name="MW-10031")).to_be_visible()
    assert violations(page) == []
    open_order(page, carried, "MW-10006")
    page.locator('[data-at="/lines/0/amount"]').focus()
    assert violations(page) == []
    open_order(page, carried, "MW-10009")
    assert violations(page) == []


def test_the_sign_in_page_is_clean_for_everyone(page: Page) -> None:
    """Before anything else can be done."""
    page.goto("/")
    page.get_by_label("E-mail").wait_for()
    assert violations(page) == []


def test_the_api_reference_can_be_read(signed_in: Page) -> None:
    """Served from here, like all else."""
    signed_in.goto("/api/v1/reference")
    expect(signed_in.get_by_role("heading", name=re.compile("Inkwell Bridge"))).to_be_visible()


def test_an_address_that_leads_nowhere_says_so(signed_in: Page, carried: World) -> None:
    """With a way back."""
    signed_in.goto(f"/{carried.slug}/nowhere")
    expect(signed_in.get_by_role("heading", name="There is no such page")).to_be_visible()
    signed_in.goto("/nobody/today")
    expect(signed_in.get_by_role("link", name="Go to the first page")).to_be_visible()


def test_a_customer_has_a_page_too(signed_in: Page, world: World) -> None:
    """Who it is at the shop, and that a contact stands at the other end."""
    world.put("web-shop", customers=customers()[:2])
    demo_client.set_up_others(world.stack, world.calls, world=world.slug)
    world.run("web-shop-to-contact-list")
    page = signed_in
    page.goto(f"/{world.slug}/documents?search=C-0001")
    page.get_by_role("link", name="C-0001").click()
    expect(page.get_by_role("heading", name="Customer C-0001", level=1)).to_be_visible()
    expect(page.get_by_text("Aoife O'Driscoll")).to_be_visible()
    page.locator('[data-at="/contact"]').hover()
    expect(page.get_by_role("region", name="Reason")).to_contain_text("Found by e-mail")
    assert violations(page) == []


def test_what_waits_is_one_row_a_cause_in_each_currency(signed_in: Page, world: World) -> None:
    """Yen have no pence, dinars three digits."""
    odd = {order["note"]: order for order in odd_orders()}
    world.put_orders(odd["in JPY"], odd["in KWD"], reset=True)
    world.run()
    page = signed_in
    page.goto(f"/{world.slug}/today")
    needs = page.get_by_role("region", name="What needs a person")
    row = needs.get_by_role("listitem").filter(has_text="The other side does not keep its currency")
    expect(row).to_contain_text("2 documents")
    expect(row).to_contain_text("3,600 JPY")
    expect(row).to_contain_text("7.250 KWD")
    assert violations(page) == []
