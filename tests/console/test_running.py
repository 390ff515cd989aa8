"""When a bridge runs, what it ran, what ends call about, and who is told: on the console's pages."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.client import NotFound
from tests.console.conftest import violations
from tests.support.receiver import receiver
from tests.support.world import BRIDGE, World, shop_order, wait_for


def test_a_timetable_is_set_in_fields_and_read_in_words(signed_in: Page, small: World) -> None:
    """Every half-hour within office hours on weekdays; the lane of refunds apart, in words; then neither."""
    page, calls = signed_in, small.calls.bridge(BRIDGE)
    page.goto(f"/{small.slug}/bridges/{BRIDGE}")
    panel = page.get_by_role("region", name="When it runs")
    expect(panel).to_contain_text("only when somebody starts it")
    panel.get_by_role("button", name="Set a timetable: All lanes").click()
    panel.get_by_label("every", exact=False).select_option("30")
    panel.get_by_label("only between").check()
    panel.get_by_label("Last time").fill("17:30")
    panel.get_by_label("Sat").uncheck()
    panel.get_by_label("Sun").uncheck()
    words = "every 30 minutes between 08:00 and 17:30 on weekdays (Europe/London)"
    expect(panel.get_by_text(words)).to_be_visible()
    # The demo's clock stands at the evening of Saturday, 31 October.
    expect(panel.get_by_text("Mon 02 Nov, 08:00")).to_be_visible()
    assert violations(page) == []
    panel.get_by_role("button", name="Save").click()
    expect(panel.get_by_role("button", name="Save")).to_have_count(0)
    assert calls.timetable().words == words
    panel.get_by_role("button", name="Run it apart: orders").click()
    panel.get_by_role("button", name="In words").click()
    panel.get_by_label("When it runs").fill("now and then")
    expect(panel.get_by_text("“now and then” was not understood")).to_be_visible()
    panel.get_by_label("When it runs").fill("daily at 6am; not on 25 December 2026")
    expect(panel.get_by_text("daily at 06:00; not on 25 December 2026 (Europe/London)")).to_be_visible()
    # What was said in words stands in the fields as well.
    panel.get_by_role("button", name="In fields").click()
    expect(panel.get_by_label("Time 1")).to_have_value("06:00")
    expect(panel.get_by_role("group", name="Pause 1")).to_be_visible()
    panel.get_by_role("button", name="Save").click()
    expect(panel.get_by_role("button", name="Save")).to_have_count(0)
    expect(panel).to_contain_text("daily at 06:00; not on 25 December 2026")
    assert calls.timetable(lane="orders").words.startswith("daily at 06:00")
    panel.get_by_role("button", name="Change: orders").click()
    panel.get_by_role("button", name="Run with the bridge again").click()
    expect(panel.get_by_text("whenever the bridge does")).to_be_visible()
    with pytest.raises(NotFound):
        calls.timetable(lane="orders")


def test_a_bridge_is_paused_and_goes_on(signed_in: Page, small: World) -> None:
    """It says since when; a run is refused meanwhile."""
    page = signed_in
    page.goto(f"/{small.slug}/bridges/{BRIDGE}")
    panel = page.get_by_role("region", name="When it runs")
    panel.get_by_role("button", name="Pause the bridge").click()
    expect(panel.get_by_role("status")).to_contain_text("Paused since 31 Oct")
    assert violations(page) == []
    page.goto(f"/{small.slug}/runs")
    page.get_by_role("button", name="Start a run").click()
    page.get_by_role("button", name="Start", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("is paused since")
    page.goto(f"/{small.slug}/bridges/{BRIDGE}")
    page.get_by_role("button", name="Let it go on").click()
    expect(page.get_by_role("button", name="Pause the bridge")).to_be_visible()


def test_a_run_of_two_orders_is_started_followed_and_run_again(signed_in: Page, world: World) -> None:
    """By their numbers; every count opens its documents; the held one is tried again."""
    page = signed_in
    page.goto(f"/{world.slug}/runs")
    expect(page.get_by_text("No run to show")).to_be_visible()
    page.get_by_role("button", name="Start a run").click()
    page.get_by_label("Orders by number").fill("MW-10006, MW-10031")
    assert violations(page) == []
    page.get_by_role("button", name="Start", exact=True).click()
    expect(page.get_by_role("heading", name="Run ")).to_be_visible()
    expect(page.get_by_text("MW-10006, MW-10031")).to_be_visible()
    page.get_by_role("button", name="Run 1 held one again").click()
    expect(page.get_by_text("again: differs, held")).to_be_visible()
    page.get_by_role("link", name="held").click()
    expect(page.get_by_role("link", name="MW-10031")).to_be_visible()
    page.goto(f"/{world.slug}/runs")
    rows = page.get_by_role("row")
    expect(rows).to_have_count(3)
    expect(rows.nth(2)).to_contain_text("MW-10006, MW-10031")
    assert violations(page) == []


def test_a_shop_is_told_whom_to_call_and_an_order_comes_by_itself(signed_in: Page, small: World) -> None:
    """Registered by a button; what came is listed; a secret is shown once."""
    page = signed_in
    page.goto(f"/{small.slug}/connections/web-shop")
    panel = page.get_by_role("region", name="Calls from this end")
    expect(panel).to_contain_text("never")
    panel.get_by_role("button", name="Register this address there").click()
    expect(panel.get_by_role("status")).to_contain_text("It calls us from now on.")
    small.put_orders(shop_order("MW-10006"))
    wait_for(lambda: small.invoices() or None, seconds=30, what="the invoice")
    page.reload()
    expect(panel.get_by_role("row").nth(1)).to_contain_text("MW-10006")
    expect(panel.get_by_role("row").nth(1)).to_contain_text("looked at")
    panel.get_by_role("button", name="New secret, to enter by hand").click()
    expect(panel.get_by_role("status").filter(has_text="whsec_")).to_be_visible()
    panel.get_by_label("It calls").select_option("60")
    wait_for(lambda: small.calls.connection("web-shop").call_address().expected_within_minutes or None, seconds=10,
             what="the promise")  # fmt: skip
    assert violations(page) == []
    page.get_by_role("button", name="Pause", exact=True).click()
    expect(page.get_by_role("button", name="Let it go on")).to_be_visible()


def test_somebody_is_told_and_a_test_says_what_happened(signed_in: Page, small: World) -> None:
    """A program that is called, and a person where no mail server is set up."""
    page = signed_in
    page.goto(f"/{small.slug}/settings")
    panel = page.get_by_role("region", name="Notices")
    expect(panel).to_contain_text("Nobody is told of anything yet.")
    with receiver() as hook:
        panel.get_by_label("Whom").select_option("call")
        panel.get_by_label("Address to call").fill(hook.address)
        panel.get_by_label("an end that does not answer").check()
        panel.get_by_role("button", name="Tell them").click()
        shown = panel.get_by_role("status").filter(has_text="whsec_").locator("code")
        hook.secret = shown.inner_text()
        panel.get_by_role("button", name=f"Send a test: {hook.address}").click()
        expect(panel.get_by_text("It was taken with status 204.")).to_be_visible()
        assert [one["type"] for one in hook.events] == ["inkwell.test"]
    panel.get_by_label("Whom").select_option("first.owner@inkwell.example")
    panel.get_by_label("Summary of the day before at").fill("08:00")
    panel.get_by_label("Quiet from").fill("22:00")
    panel.get_by_label("Quiet until").fill("07:00")
    panel.get_by_role("button", name="Tell them").click()
    row = panel.get_by_role("listitem").filter(has_text="first.owner@inkwell.example")
    expect(row).to_contain_text("with a summary of the day before at 08:00, not from 22:00 to 07:00 (Europe/London)")
    row.get_by_role("button", name="Send a test").click()
    expect(row.get_by_role("status")).to_contain_text("No mail server is set up")
    assert violations(page) == []
    row.get_by_role("button", name="Remove").click()
    expect(row).to_have_count(0)
    assert [rule.channel for rule in small.calls.notice_rules()] == ["call"]
