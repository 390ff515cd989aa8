"""Rules in the console: what all bridges of a client build on, and what a change of rules changes."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.console.conftest import rules_text, violations, write_rules
from tests.support.world import BRIDGE, World, invoices_alone, joined

ON_BASE = "rulebook: 1\nbased_on: client.yaml\naccounts: {shipping: '4000'}\n"


def test_base_rules_are_written_built_on_and_changed(signed_in: Page, world: World) -> None:
    """A slip is told with its line; a bridge builds on them, and says what it changes; so it does when they change."""
    page = signed_in
    page.goto(f"/{world.slug}/bridges")
    page.get_by_role("link", name="Write base rules").click()
    keep = page.get_by_role("button", name="Check and save")
    write_rules(page, invoices_alone().replace("become: invoice", "become: poem"))
    keep.click()
    slip = invoices_alone().splitlines().index("  become: invoice") + 1
    page.get_by_role("button", name=f"line {slip}").click()
    assert violations(page) == []
    write_rules(page, invoices_alone())
    keep.click()
    expect(page.get_by_role("heading", name="client.yaml, version 1")).to_be_visible()
    expect(page.get_by_text("None yet: say based_on: client.yaml in the rules of a bridge.")).to_be_visible()

    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    write_rules(page, ON_BASE)
    page.get_by_role("button", name="Check and save as a draft").click()
    changes = page.get_by_role("region", name="Otherwise than version 1, in force")
    expect(changes.get_by_text("accounts, shipping: was '4100', is '4000'.")).to_be_visible()
    expect(page.get_by_role("region", name="Builds on")).to_contain_text("client.yaml, version 1")
    assert violations(page) == []

    page.get_by_role("link", name="client.yaml").click()
    expect(page.get_by_role("heading", name="client.yaml, version 1")).to_be_visible()
    write_rules(
        page,
        invoices_alone().replace('default: "4000"', 'default: "4010"', 1).replace('sales: "4000"', 'sales: "4010"'),
    )
    page.get_by_label("Write new drafts for 1 bridge").uncheck()
    keep.click()
    expect(page.get_by_role("heading", name="client.yaml, version 2")).to_be_visible()
    built = page.get_by_role("region", name="Bridges that build on it")
    expect(built).to_contain_text("version 2, a draft, written on version 1 of it")
    assert violations(page) == []

    built.get_by_role("link", name=BRIDGE).click()
    expect(page.get_by_text("Version 2 is newer, and not in use here yet.")).to_be_visible()
    page.get_by_role("button", name="Write a new draft on the newest base").click()
    expect(page.get_by_role("heading", name="Version 3", exact=True)).to_be_visible()
    expect(page.get_by_role("region", name="Builds on")).to_contain_text("client.yaml, version 2")
    assert world.calls.bridge(BRIDGE).rulebook(3).text == ON_BASE


def test_somebody_who_may_only_look_changes_no_rules(signed_in: Page, world: World) -> None:
    """The text can be read, and there is nothing to keep it with."""
    world.calls.write_base_rulebook("client.yaml", invoices_alone())
    joined(world.calls, email=f"owner@{world.slug}.example", role="own", password="a-long-enough-password")
    world.calls.give_role(email=world.client.session().email, role="see")
    page = signed_in
    page.goto(f"/{world.slug}/base-rules/client.yaml")
    expect(page.get_by_role("heading", name="client.yaml, version 1")).to_be_visible()
    expect(page.get_by_role("button", name="Check and save")).to_have_count(0)
    assert page.get_by_label("Text of the rules").get_attribute("aria-readonly") == "true"
    page.get_by_label("Text of the rules").press("x")
    assert rules_text(page) == invoices_alone()


def test_two_people_at_once_see_each_other_and_one_goes_back(signed_in: Page, world: World) -> None:
    """Somebody writes meanwhile: both changes are put together; then the first version is in force again."""
    page, bridge = signed_in, world.calls.bridge(BRIDGE)
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    rules = bridge.rulebook(1).text
    write_rules(page, rules.replace("goes_to: rounding account", "goes_to: hold"))
    bridge.write_rulebook(rules.replace('shipping: "4100"', 'shipping: "4200"'))
    page.get_by_role("button", name="Check and save as a draft").click()
    told = page.get_by_role("alert").filter(has_text="Version 2 was written by")
    expect(told).to_contain_text("Their changes and yours do not touch the same values.")
    assert violations(page) == []
    told.get_by_role("button", name="Take both together").click()
    page.get_by_role("button", name="Check and save as a draft").click()
    expect(page.get_by_role("heading", name="Version 3", exact=True)).to_be_visible()
    expect(page.get_by_text("Not rehearsed yet.")).to_be_visible()
    made = bridge.rulebook(3).text
    assert 'shipping: "4200"' in made
    assert "goes_to: hold" in made

    page.get_by_label("Note on this version").fill("Agreed with the accountant")
    page.get_by_role("button", name="Publish version 3").click()
    expect(page.get_by_text("in force, ").first).to_be_visible()
    expect(page.get_by_text("Agreed with the accountant", exact=True)).to_be_visible()
    page.get_by_role("button", name="Version 1").click()
    page.get_by_role("button", name="Put version 1 in force again").click()
    expect(page.get_by_role("heading", name="Version 4", exact=True)).to_be_visible()
    expect(page.get_by_text("Version 1 again.")).to_be_visible()
    assert bridge.read().rulebook_in_force == 4
    assert violations(page) == []


def test_who_writes_rules_may_be_another_than_who_publishes(signed_in: Page, world: World) -> None:
    """An editor saves a draft, and is told that somebody else puts it in force."""
    joined(world.calls, email=f"owner@{world.slug}.example", role="own")
    world.calls.give_role(email=world.client.session().email, role="edit")
    page = signed_in
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    write_rules(page, rules_text(page).replace('"4100"', '"4200"'))
    page.get_by_role("button", name="Check and save as a draft").click()
    expect(page.get_by_role("heading", name="Version 2", exact=True)).to_be_visible()
    expect(page.get_by_text("Somebody who may publish rules puts this draft in force.")).to_be_visible()
    expect(page.get_by_role("button", name="Publish version 2")).to_have_count(0)
    assert violations(page) == []
