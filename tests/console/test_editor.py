"""The text of rules: what is offered, told and marked in its place; base rules as fields."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.console.conftest import rules_text, violations, write_rules
from tests.support.world import BRIDGE, World, invoices_alone


@pytest.fixture
def loaded(world: World) -> World:
    """A world whose books have told their names."""
    world.loaded("uk-books")
    world.loaded("web-shop")
    return world


def opened(page: Page, world: World) -> None:
    """The text of the rules, with the cursor behind the line of shipping."""
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    area = page.get_by_label("Text of the rules")
    area.press("Control+Home")
    line = invoices_alone().splitlines().index('  shipping: "4100"')
    for _ in range(line):
        area.press("ArrowDown")
    area.press("End")


def take(page: Page) -> None:
    """Take what is offered first: Enter counts once a person could have seen it."""
    page.wait_for_timeout(150)
    page.keyboard.press("Enter")


def test_keys_codes_and_names_are_offered_as_one_types(signed_in: Page, loaded: World) -> None:
    """A key with what it means, a code by its name's end of the books, a name in a condition; by keyboard alone."""
    page = signed_in
    opened(page, loaded)
    for key in ("Enter", *"goodw"):
        page.keyboard.press(key)
    expect(page.get_by_role("option", name="goodwill")).to_be_visible()
    expect(page.get_by_text("Money given back with no line to it.")).to_be_visible()
    take(page)
    page.keyboard.type('"49')
    expect(page.get_by_role("option", name=re.compile("4900.*Allowances given"))).to_be_visible()
    assert violations(page) == []
    take(page)
    assert '  shipping: "4100"\n  goodwill: "4900"\n' in rules_text(page)
    # Every digit of a code makes a text of it, which needs its quotes.
    for key in ("End", "Enter", *"tips: 42"):
        page.keyboard.press(key)
    expect(page.get_by_role("option", name=re.compile("4200.*Tips received"))).to_be_visible()
    take(page)
    assert '\n  tips: "4200"\n' in rules_text(page)
    write_rules(page, "rulebook: 1\norders:\n  only: order.cust")
    page.keyboard.press("Control+End")
    page.keyboard.type("o")
    expect(page.get_by_role("option", name="order.customer_group")).to_be_visible()
    take(page)
    assert rules_text(page).endswith("only: order.customer_group")


def test_what_is_wrong_is_marked_as_one_types_and_keys_tell_what_they_mean(signed_in: Page, loaded: World) -> None:
    """Before anything is saved; a line is shown where it stands, also one that is far below; Tab leaves the text."""
    page = signed_in
    opened(page, loaded)
    rules = invoices_alone()
    write_rules(page, rules.replace('"8200"', '"8299"').replace("goes_to: rounding account", "goes_to: nowhere"))
    wrong = page.get_by_role("region", name="Found in it")
    expect(wrong).to_contain_text("expected one of rounding account, largest line, hold, got 'nowhere'")
    slip = rules.splitlines().index("  goes_to: rounding account") + 1
    wrong.get_by_role("button", name=f"line {slip}").click()
    mark = page.get_by_text("goes_to: nowhere")
    expect(mark.first).to_be_visible()
    page.keyboard.press("End")
    for _ in "nowhere":
        page.keyboard.press("Backspace")
    page.keyboard.type("hold")
    page.keyboard.press("Escape")
    expect(wrong).to_contain_text("account 8299 for rounding is not in the books of Marrowby UK books")
    page.get_by_text("goes_to").first.hover()
    expect(page.get_by_text("Unless said otherwise: rounding account")).to_be_visible()
    assert violations(page) == []
    write_rules(page, "rulebook: [1\n")
    expect(wrong).to_contain_text("rulebook.yaml, line 2")
    write_rules(page, rules)
    expect(page.get_by_text("changed, not saved yet")).to_have_count(0)
    page.keyboard.press("Tab")
    expect(page.get_by_label("Text of the rules")).not_to_be_focused()


def test_base_rules_are_fields_that_tell_what_they_reach(signed_in: Page, loaded: World) -> None:
    """A bridge that says the same key itself is named there; in its own rules what is inherited stands beside."""
    calls, page = loaded.calls, signed_in
    calls.write_base_rulebook(
        "client.yaml", invoices_alone().replace('  shipping: "4100"', '  shipping: "4100"  # all')
    )
    calls.bridge(BRIDGE).write_rulebook('rulebook: 1\nbased_on: client.yaml\naccounts: {sales: "4900"}\n')
    page.goto(f"/{loaded.slug}/base-rules/client.yaml")
    page.get_by_role("button", name="As fields").click()
    told = page.get_by_text(f"A change here does not reach {BRIDGE}, which says its own.")
    expect(told).to_have_count(1)
    assert violations(page) == []
    shipping = page.get_by_label("accounts, shipping", exact=True)
    shipping.fill("4200")
    shipping.press("Enter")
    expect(page.locator("span", has_text="Tips received")).to_be_visible()
    page.get_by_label("Write new drafts for 1 bridge").uncheck()
    page.get_by_role("button", name="Check and save").click()
    expect(page.get_by_role("heading", name="client.yaml, version 2")).to_be_visible()
    assert '  shipping: "4200"  # all' in calls.base_rulebook("client.yaml").text

    page.goto(f"/{loaded.slug}/bridges/{BRIDGE}/rules")
    page.get_by_role("button", name="As fields").click()
    expect(page.get_by_text("goes before 4000, which it would inherit")).to_be_visible()
    expect(page.get_by_text("inherited: 4200")).to_be_visible()
    expect(page.get_by_text("inherited: S20")).to_be_visible()
    assert violations(page) == []
