"""An unmapped tax class, from coverage to its held order carried: by mouse, and the same by keyboard alone."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, few_orders, joined, shop_order, wait_for

REDUCED = "MW-10031"


@pytest.fixture
def held(world: World) -> World:
    """A world whose four plain orders were carried, and one held, for its tax class has no code."""
    world.put_orders(*few_orders()[:4], shop_order(REDUCED), reset=True)
    world.run()
    assert [one.number for one in world.calls.crossings(state=["held"])] == [REDUCED]
    return world


def rehearse_october(page: Page, world: World, version: int) -> None:
    """Ask for it on its page, and see it end."""
    page.goto(f"/{world.slug}/bridges/{BRIDGE}/rules")
    page.get_by_role("link", name="Rehearsal and coverage").click()
    page.get_by_label("Version of the rules").select_option(str(version))
    page.get_by_label("From", exact=True).fill("2026-10-01")
    page.get_by_label("To", exact=True).fill("2026-10-31")
    page.get_by_role("button", name="Rehearse", exact=True).click()
    expect(page.get_by_role("status").filter(has_text=f"Version {version}")).to_contain_text("would change")


def test_a_tax_class_is_mapped_rehearsed_published_and_its_order_goes(signed_in: Page, held: World) -> None:
    """Found in coverage, taken over from its suggestion, seen in a rehearsal, put in force, released."""
    page = signed_in
    page.goto(f"/{held.slug}/bridges/{BRIDGE}/rehearsal")
    expect(page.get_by_text("Nothing was rehearsed yet")).to_be_visible()
    assert violations(page) == []
    rehearse_october(page, held, 1)
    expect(page.get_by_text("No document would change")).to_be_visible()
    page.get_by_role("button", name="Coverage").click()
    coverage = page.get_by_role("region", name="1 value that no rule maps")
    row = coverage.get_by_role("row", name="tax class reduced")
    expect(row).to_contain_text(f"No rule on 1 order, such as {REDUCED}")
    assert violations(page) == []
    row.get_by_role("button", name="Map to R05").click()
    expect(row).to_contain_text("Version 2 maps it, as a draft.")
    assert "    reduced: R05" in held.calls.bridge(BRIDGE).rulebook(2).text.splitlines()

    rehearse_october(page, held, 2)
    expect(page.get_by_text("1 would be carried, which is held now")).to_be_visible()
    page.get_by_role("button", name=REDUCED).click()
    expect(page.get_by_role("region", name="Before")).to_contain_text("Tax class 'reduced' has no tax code")
    expect(page.get_by_role("region", name="After")).to_contain_text("is carried")
    assert violations(page) == []
    page.get_by_role("button", name="Totals").click()
    codes = page.get_by_role("region", name="By tax code")
    expect(codes.get_by_role("row", name="R05")).to_contain_text("+")
    assert violations(page) == []
    page.get_by_role("button", name="Coverage").click()
    expect(page.get_by_text("Every value is mapped")).to_be_visible()
    page.get_by_label("Show what is mapped too").check()
    expect(page.get_by_role("row", name="tax class reduced")).to_contain_text("gives R05")

    page.get_by_role("link", name="To the rules").click()
    page.get_by_role("button", name="Publish version 2").click()
    # "In force" stood beside the first version before: what counts is that the second is.
    bridge = held.calls.bridge(BRIDGE)
    wait_for(lambda: bridge.rulebook(2).published_at, seconds=20, what="the publishing")
    held.calls.release(cause="tax-class-unmapped")
    held.ended(held.calls.bridge(BRIDGE).run())
    assert [one.number for one in held.calls.crossings(state=["held"])] == []


def test_it_goes_by_keyboard_alone(signed_in: Page, held: World) -> None:
    """From the rules to a document under both versions, without a mouse."""
    page = signed_in
    page.set_viewport_size({"width": 390, "height": 800})
    held.calls.bridge(BRIDGE).rehearse(compare=False)
    page.goto(f"/{held.slug}/bridges/{BRIDGE}/rehearsal")
    expect(page.get_by_text("No orders in this period")).to_be_visible()
    page.get_by_label("From", exact=True).fill("2026-10-01")
    page.get_by_label("To", exact=True).fill("2026-10-31")
    page.get_by_role("button", name="Rehearse", exact=True).focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="Version 1 beside")).to_contain_text("nothing of 5 would change")
    page.get_by_role("button", name="Coverage").focus()
    page.keyboard.press("Enter")
    button = page.get_by_role("button", name="Map to R05")
    button.focus()
    page.keyboard.press("Space")
    expect(page.get_by_text("Version 2 maps it, as a draft.")).to_be_visible()
    assert violations(page) == []


def test_who_may_only_look_sees_what_was_rehearsed(signed_in: Page, held: World) -> None:
    """And has nothing to ask for, nor to take over."""
    made = held.calls.bridge(BRIDGE).rehearse(compare=False)
    joined(held.calls, email=f"owner@{held.slug}.example", role="own")
    held.calls.give_role(email=held.client.session().email, role="see")
    page = signed_in
    page.goto(f"/{held.slug}/bridges/{BRIDGE}/rehearsal?of={made.id}")
    expect(page.get_by_text("No orders in this period")).to_be_visible()
    expect(page.get_by_role("button", name="Rehearse", exact=True)).to_have_count(0)
