"""One order sent as drafts, looked at, and taken back, all in the browser."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, shop_order

TRIED = "MW-10003"


def test_an_order_is_sent_as_drafts_and_taken_back(signed_in: Page, world: World) -> None:
    """From the set-up of a bridge whose lanes are off; both pages say that it is on trial."""
    world.put_orders(shop_order(TRIED), reset=True)
    page = signed_in
    page.goto(f"/{world.slug}/bridges/{BRIDGE}")
    page.get_by_label("Number of an order").fill(TRIED)
    page.get_by_role("button", name="Try it").click()
    expect(page.get_by_text(f"{TRIED} would be carried")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Send as drafts").click()
    page.get_by_role("link", name="Compare both pages").click()
    page.get_by_role("link", name=TRIED).click()
    trial = page.get_by_role("region", name="On trial")
    expect(trial).to_contain_text("stand in the books as drafts")
    assert violations(page) == []
    assert [invoice["state"] for invoice in world.books()["invoice"]] == ["draft"]
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("Taken back from the books")).to_be_visible()
    expect(page.get_by_text("by trial taken back", exact=True)).to_be_visible()
    expect(trial).to_have_count(0)
    assert [invoice["state"] for invoice in world.books()["invoice"]] == ["void"]
    assert violations(page) == []
