"""What happened to a document, and ending a run that does not come to an end, on the console's pages."""

from __future__ import annotations

import os

import pytest
from playwright.sync_api import Page, expect

from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, wait_for

SHOTS = os.environ.get("INKWELL_TEST_SHOTS", "")


def shoot(page: Page, name: str) -> None:
    """A picture, where somebody asked for them."""
    if SHOTS:
        page.screenshot(path=f"{SHOTS}/{name}.png", full_page=True)


@pytest.mark.parametrize("width", [1280, 390])
def test_the_history_of_a_held_order(signed_in: Page, october: World, width: int) -> None:
    """Below both pages, step by step, without saying twice what the finding says."""
    page = signed_in
    page.set_viewport_size({"width": width, "height": 800})
    page.goto(f"/{october.slug}/documents?search=MW-10034")
    page.get_by_role("link", name="MW-10034").click()
    history = page.get_by_role("region", name="History")
    # Another test may have released it since.
    expect(history.get_by_role("listitem").nth(0)).to_contain_text("Read at the origin")
    expect(history.get_by_role("listitem").nth(1)).to_contain_text("Held for a person tax class unmapped")
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= width, "the page is wider than the screen"
    shoot(page, f"history-held-{width}")
    page.goto(f"/{october.slug}/documents?search=MW-10003")
    page.get_by_role("link", name="MW-10003").click()
    expect(history.get_by_role("listitem")).to_have_count(4)
    expect(history).to_contain_text("Posted invoice")
    expect(history).to_contain_text("Read back, and as planned")
    shoot(page, f"history-carried-{width}")


def test_a_run_is_stopped_from_today(signed_in: Page, small: World) -> None:
    """Asked once more before it is done; then the bridge can run again, and everything is carried."""
    page = signed_in
    small.misbehave("erp", {"call": "invoices.create", "kind": "hold", "times": 100})
    small.calls.bridge(BRIDGE).run()
    wait_for(lambda: small.misbehaved("erp")[0]["waiting"] or None, seconds=30, what="a first document")
    page.goto(f"/{small.slug}/today")
    page.get_by_role("button", name="Stop this run").click()
    expect(page.get_by_text("what it has read is carried all the same")).to_be_visible()
    shoot(page, "stop")
    assert violations(page) == []
    page.get_by_role("button", name="Stop run").click()
    panel = page.get_by_role("region", name="Web shop to UK books")
    expect(panel).to_contain_text("Stopped by first.owner@inkwell.example.")
    expect(page.get_by_role("button", name="Run now")).to_be_enabled()
    small.misbehave("erp")
    small.settled()
    # A call that was kept longer than the books ever take may leave a draft behind: what counts is what was posted.
    posted = [one["order"] for one in small.invoices() if one["state"] == "posted"]
    assert (len(posted), len(set(posted))) == (28, 28)
