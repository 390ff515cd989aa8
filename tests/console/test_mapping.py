"""The rules as fields: every change is one of the text, which stays as it is else."""

from __future__ import annotations

from datetime import date

import pytest
from playwright.sync_api import Page, expect

from tests.console.conftest import rules_text, violations
from tests.support.world import BRIDGE, World, few_orders, invoices_alone, joined, shop_order, wait_for

COMMENTED = invoices_alone().replace('  shipping: "4100"', '  shipping: "4100"   # agreed with the accountant')


@pytest.fixture
def mapped(world: World) -> World:
    """A world with a commented draft, and the coverage of five orders, one of a class that has no code."""
    world.put_orders(*few_orders()[:4], shop_order("MW-10031"), reset=True)
    world.run()
    world.loaded("uk-books")
    world.calls.bridge(BRIDGE).write_rulebook(COMMENTED)
    return world


def as_fields(page: Page, world: World) -> None:
    """The newest version, as fields."""
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    page.get_by_role("button", name="As fields").click()
    expect(page.get_by_role("heading", name="accounts")).to_be_visible()


def text_of(page: Page) -> list[str]:
    """The lines of the text, as it stands now."""
    page.get_by_role("button", name="As text").click()
    lines = rules_text(page).splitlines()
    page.get_by_role("button", name="As fields").click()
    return lines


def otherwise(before: str, after: list[str]) -> tuple[list[str], list[str]]:
    """The lines that went, and those that came."""
    old = before.splitlines()
    return [line for line in old if line not in after], [line for line in after if line not in old]


def test_a_field_changes_its_line_and_no_other(signed_in: Page, mapped: World) -> None:
    """An account with its name; one that the books lack is told beside it; kept as a draft."""
    page = signed_in
    as_fields(page, mapped)
    shipping = page.get_by_label("accounts, shipping", exact=True)
    expect(page.locator("span", has_text="Carriage charged")).to_be_visible()
    assert violations(page) == []
    shipping.fill("9999")
    shipping.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="account 9999 for shipping is not in the books")).to_be_visible()
    shipping.fill("4200")
    shipping.press("Enter")
    expect(page.locator("span", has_text="Tips received")).to_be_visible()
    page.get_by_label("penny, goes to").select_option("hold")
    expect(page.get_by_text("changed, not saved yet")).to_be_visible()
    gone, new = otherwise(COMMENTED, text_of(page))
    assert gone == ['  shipping: "4100"   # agreed with the accountant', "  goes_to: rounding account"]
    assert new == ['  shipping: "4200"   # agreed with the accountant', "  goes_to: hold"]
    page.get_by_role("button", name="Check and save as a draft").click()
    expect(page.get_by_role("heading", name="Version 3", exact=True)).to_be_visible()
    assert '  shipping: "4200"   # agreed' in mapped.calls.bridge(BRIDGE).rulebook(3).text


def test_an_odd_one_beside_the_rules_tells_its_steps(signed_in: Page, mapped: World) -> None:
    """Chosen by the program from the last rehearsal; its account is explained step by step."""
    by_country = COMMENTED.replace('sales: "4000"', 'sales: {default: "4000", by_country: {US: "4200"}}')
    rules = by_country.replace("orders:\n", "orders:\n  only: order.total > 1\n", 1)
    mapped.calls.bridge(BRIDGE).write_rulebook(rules)
    asked = mapped.calls.bridge(BRIDGE).rehearse(compare=False, first=date(2026, 10, 1), last=date(2026, 10, 31))
    wait_for(lambda: not mapped.calls.rehearsal(asked.id).under_way or None, seconds=30, what="the rehearsal")
    page = signed_in
    as_fields(page, mapped)
    odd = mapped.calls.rehearsal(asked.id).odd_ones
    carried = next(one for one in odd if "TAX-E001" not in one.why and "no tax code" not in one.why)
    expect(page.get_by_text("True of 5 orders of the last rehearsal.")).to_be_visible()
    page.get_by_label("Or an odd one of the last rehearsal").select_option(carried.number)
    expect(page.get_by_text(f"{carried.number} would be")).to_be_visible()
    page.get_by_text("Why account 4000").first.click()
    expect(page.get_by_role("listitem").filter(has_text="country “GB”: no rule").first).to_be_visible()
    expect(page.get_by_role("listitem").filter(has_text="default: 4000").first).to_be_visible()
    assert violations(page) == []


def test_a_plain_code_gets_exceptions_and_a_table_its_rows(signed_in: Page, mapped: World) -> None:
    """One row typed, two pasted from a spreadsheet, one taken from what orders hold, one removed."""
    asked = mapped.calls.bridge(BRIDGE).rehearse(compare=False, first=date(2026, 10, 1), last=date(2026, 10, 31))
    wait_for(lambda: not mapped.calls.rehearsal(asked.id).under_way or None, seconds=30, what="the rehearsal")
    page = signed_in
    as_fields(page, mapped)
    accounts = page.get_by_role("region", name="accounts")
    accounts.get_by_role("button", name="with exceptions").first.click()
    accounts.get_by_text("More that can be said: by tag").click()
    key = page.get_by_label("A further row of accounts, sales, by country")
    key.fill("US")
    key.press("Enter")
    value = page.get_by_label("accounts, sales, by country: US")
    value.fill("4010")
    value.press("Enter")
    expect(accounts.get_by_role("button", name="Remove US from accounts, sales, by country")).to_be_visible()
    classes = page.get_by_role("table", name="tax codes, by class")
    # By hand, with carriage, the voucher of 1.50 taken off: 11.40 + 45.20 + 13.94 + 112.50 + 22.45.
    expect(classes.get_by_role("row", name="standard")).to_contain_text("5 orders, 205.49 GBP")
    classes.get_by_role("button", name="Map reduced to R05").click()
    expect(page.get_by_label("tax codes, by class: reduced")).to_have_value("R05")
    page.get_by_label("A further row of tax codes, by class").evaluate(
        """(field) => {
            const clipboardData = new DataTransfer();
            clipboardData.setData("text", "books\\tZ00\\nmagazines\\tZ00\\n");
            field.dispatchEvent(new ClipboardEvent("paste", {clipboardData, bubbles: true, cancelable: true}));
        }"""
    )
    expect(page.get_by_label("tax codes, by class: magazines")).to_have_value("Z00")
    classes.get_by_role("button", name="Remove export from").click()
    expect(page.get_by_label("tax codes, by class: export")).to_have_count(0)
    assert violations(page) == []
    gone, new = otherwise(COMMENTED, text_of(page))
    assert gone == ['  sales: "4000"', "    export: X00"]
    assert new == ["  sales:", '    default: "4000"', "    by_country:", '      US: "4010"', "    reduced: R05",
                   "    books: Z00", "    magazines: Z00"]  # fmt: skip


def test_fields_are_changed_by_keyboard_alone(signed_in: Page, mapped: World) -> None:
    """On a narrow screen: a list, a group that was not there, a condition; without a mouse."""
    page = signed_in
    page.set_viewport_size({"width": 390, "height": 800})
    as_fields(page, mapped)
    statuses = page.get_by_label("orders, statuses", exact=True)
    statuses.focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("paid")
    page.keyboard.press("Tab")
    page.get_by_text("More that can be said: instead").focus()
    page.keyboard.press("Enter")
    only = page.get_by_label("orders, only", exact=True)
    only.focus()
    page.keyboard.type('order.country == "GB"')
    page.keyboard.press("Enter")
    how = page.get_by_label("How orders, only is made")
    expect(page.get_by_label("orders, only", exact=True)).to_have_value('order.country == "GB"')
    how.select_option("all")
    further = page.get_by_label("A further part of orders, only", exact=True)
    further.focus()
    page.keyboard.type("order.total > 100")
    page.keyboard.press("Enter")
    expect(page.get_by_label("orders, only 2", exact=True)).to_have_value("order.total > 100")
    assert violations(page) == []
    gone, new = otherwise(COMMENTED, text_of(page))
    assert gone == ["  statuses: [paid, completed]"]
    assert new == ["  statuses: [paid]", "  only:", '    all: ["order.country == \\"GB\\"", "order.total > 100"]']
    assert page.evaluate("document.documentElement.scrollWidth") <= 400


def test_a_condition_is_built_from_fields_and_comparisons(signed_in: Page, mapped: World) -> None:
    """Field, comparison and value are chosen; the expression is shown, and one written by hand is taken apart."""
    page = signed_in
    as_fields(page, mapped)
    page.get_by_text("More that can be said: instead").click()
    page.get_by_label("Field of orders, only").select_option("country of delivery")
    page.get_by_label("Comparison of orders, only").select_option("is not")
    value = page.get_by_label("Value of orders, only")
    value.fill("US")
    value.press("Enter")
    only = page.get_by_label("orders, only", exact=True)
    expect(only).to_have_value('order.country != "US"')
    assert violations(page) == []
    only.fill("order.total >= 5000")
    only.press("Enter")
    expect(page.get_by_label("Field of orders, only")).to_have_value("order.total")
    expect(page.get_by_label("Comparison of orders, only")).to_have_value(">=")
    expect(page.get_by_label("Value of orders, only")).to_have_value("5000")
    expect(page.get_by_text("in the smallest coin: 19.99 is 1999")).to_be_visible()
    page.get_by_label("Field of orders, only").select_option("tags")
    value = page.get_by_label("Value of orders, only")
    value.fill("sample")
    value.press("Enter")
    expect(only).to_have_value('"sample" in order.tags')
    _, new = otherwise(COMMENTED, text_of(page))
    assert new == ['  only: "\\"sample\\" in order.tags"']


def test_an_order_beside_the_rules_moves_with_them(signed_in: Page, mapped: World) -> None:
    """What it becomes under what is typed, with what changed marked; a hold says why."""
    page = signed_in
    as_fields(page, mapped)
    page.get_by_label("Number of an order").fill("MW-10002")
    page.get_by_role("button", name="Show").click()
    beside = page.get_by_role("region", name="An order beside it")
    expect(beside).to_contain_text("MW-10002 would be")
    expect(beside.locator(".bg-glow")).to_have_count(0)
    page.get_by_label("accounts, sales", exact=True).fill("4010")
    page.keyboard.press("Enter")
    expect(beside.locator(".bg-glow").first).to_be_visible()
    page.get_by_label("accounts, sales", exact=True).fill("9999")
    page.keyboard.press("Enter")
    expect(beside).to_contain_text("account 9999 for sales is not in the books")
    assert violations(page) == []


def test_who_may_only_look_changes_nothing(signed_in: Page, mapped: World) -> None:
    """The fields can be read."""
    joined(mapped.calls, email=f"owner@{mapped.slug}.example", role="own")
    mapped.calls.give_role(email=mapped.client.session().email, role="see")
    page = signed_in
    as_fields(page, mapped)
    assert page.get_by_label("accounts, shipping", exact=True).get_attribute("readonly") is not None
    expect(page.get_by_label("orders, become")).to_be_disabled()
    expect(page.get_by_role("button", name="with exceptions")).to_have_count(0)
