"""Whether everything was read, on the page Tie-out: asked for, followed to its end, and what is lacking."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.carriage.test_completeness import LOST, orders, shop
from tests.console.conftest import violations
from tests.support.world import World

__all__ = ["shop"]
AT = "tie-out?first=2026-10-01&last=2026-10-31"


def test_what_is_lacking_is_seen_and_what_was_lost_is_fetched(signed_in: Page, shop: World) -> None:
    """One order is counted and not listed; then the shop lists it, and it is fetched."""
    shop.put_orders(*orders(unlisted=True))
    page = signed_in
    page.goto(f"/{shop.slug}/{AT}&company=marrowby-uk")
    completeness = page.get_by_role("region", name="Completeness")
    bridge = completeness.get_by_role("region", name="Web shop to UK books")
    expect(bridge.get_by_role("heading")).to_contain_text("not checked yet")
    bridge.get_by_role("button").click()
    expect(bridge.get_by_role("heading")).to_contain_text("not complete")
    row = bridge.get_by_role("row", name="Orders, GBP")
    sides = ["6 documents 130.50", "7 documents 152.25", "6 documents 130.50"]
    expect(row.get_by_role("cell")).to_have_text(sides, use_inner_text=True)
    expect(bridge).to_contain_text(f"Numbers without a document: {LOST}")
    lacking = completeness.get_by_role("row", name="1 document without a number")
    expect(lacking).to_contain_text("counted and not listed")
    expect(page.get_by_role("region", name="The sheet")).to_contain_text("1 document is counted and not listed.")
    # What keeps the month open leads there, for there is no document behind it.
    page.get_by_role("region", name="Closing October 2026").get_by_role("link", name="counted and not listed").click()
    expect(page).to_have_url(f"{shop.stack.address}/{shop.slug}/{AT}&company=marrowby-uk#completeness")
    assert violations(page) == []
    shop.put_orders(*orders(lost=True))
    bridge.get_by_role("button").click()
    expect(bridge.get_by_role("heading")).to_contain_text("everything is here")
    expect(bridge.get_by_role("link", name=LOST)).to_be_visible()
    expect(lacking).to_have_count(0)
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    bridge.get_by_role("link", name=LOST).click()
    expect(page.get_by_role("link", name=LOST)).to_be_visible()
