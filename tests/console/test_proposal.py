"""Rules learnt from what stands in the books, on their page."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, few_orders


def test_rules_are_learnt_looked_at_and_saved_as_a_draft(signed_in: Page, world: World) -> None:
    """Four orders were carried, and a fifth came since: the four are explained, and the fifth is named."""
    world.put_orders(*few_orders()[:4], reset=True)
    world.run()
    world.put_orders(few_orders()[5])
    page = signed_in
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    page.get_by_role("link", name="Learn rules from the books").click()
    expect(page.get_by_text("Nothing was learnt yet")).to_be_visible()
    assert violations(page) == []
    page.get_by_label("Orders from").fill("2026-10-01")
    page.get_by_label("To", exact=True).fill("2026-10-31")
    page.get_by_role("button", name="Learn from these orders").click()
    came_to = page.get_by_role("region", name="What it came to")
    expect(came_to).to_contain_text("These rules explain 4 of 5 orders")
    row = page.get_by_role("row", name="accounts › shipping")
    expect(row).to_contain_text("4100")
    expect(page.get_by_role("region", name="Not explained")).to_contain_text("The books hold nothing for it")
    page.get_by_text("open, for want of examples").click()
    expect(page.get_by_text("accounts › tips")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Save as a draft").click()
    expect(page.get_by_role("heading", name="Version 2", exact=True)).to_be_visible()
    assert "# Rules learnt from 5 orders" in world.calls.bridge(BRIDGE).rulebook(2).text
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/proposal")
    page.set_viewport_size({"width": 390, "height": 800})
    expect(came_to).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
