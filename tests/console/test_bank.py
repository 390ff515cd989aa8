"""The bank's page: a statement read, lines and payouts matched by keyboard, taken back, excluded."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.carriage.test_bank import account, lines, of_payout, take, world
from tests.console.conftest import violations
from tests.support.statements import camt, camt_entry
from tests.support.world import World

__all__ = ["world"]
SAYS_NOTHING = camt_entry("2026-10-07", "33.92", reference="B2", text="BULK CREDIT")


def test_a_statement_is_read_and_what_names_a_payout_is_matched(signed_in: Page, world: World, tmp_path: Path) -> None:
    """What is left is told on both sides; one that contradicts is refused, and says so among the files."""
    page, file = signed_in, tmp_path / "october.xml"
    file.write_text(camt([of_payout(1, "13.94"), SAYS_NOTHING], closing="147.86"), "utf-8")
    page.goto(f"/{world.slug}/bank")
    expect(page.get_by_text("No statement yet.")).to_be_visible()
    expect(page.get_by_text("Every line is known.")).to_be_visible()
    page.get_by_label("A file from the bank").set_input_files(file)
    expect(page.get_by_text("october.xml: 2 lines, 2 new; 1 matched.")).to_be_visible()
    expect(page.get_by_role("region", name="Matched")).to_contain_text("WP-1")
    expect(page.get_by_role("list", name="Open lines")).to_contain_text("BULK CREDIT")
    expect(page.get_by_role("list", name="Awaited")).to_contain_text("WP-2")
    file.write_text(camt([of_payout(1, "13.95")], closing="113.95"), "utf-8")
    page.get_by_label("A file from the bank").set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("it was known with 13.94 on 2026-10-06")
    expect(page.get_by_role("region", name="Statements")).to_contain_text("Refused: line 1: this line of 2026-10-06")
    assert violations(page) == []
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []


def test_a_line_and_a_payout_are_matched_by_keyboard_and_taken_back(signed_in: Page, world: World) -> None:
    """Arrows and space choose, m matches; what is left over stands there all the time."""
    take(world, camt_entry("2026-10-06", "-650.00", reference="B1", text="RENT MILL"), SAYS_NOTHING)
    page = signed_in
    page.goto(f"/{world.slug}/bank")
    boxes = page.get_by_role("list", name="Open lines").get_by_role("checkbox")
    boxes.first.focus()
    page.keyboard.press("ArrowDown")
    expect(boxes.nth(1)).to_be_focused()
    page.keyboard.press("Space")
    chosen = page.get_by_role("region", name="What is chosen")
    expect(chosen).to_contain_text("33.92")
    payouts = page.get_by_role("list", name="Awaited").get_by_role("checkbox")
    payouts.first.focus()
    page.keyboard.press("Space")
    # 33.92 are no 13.94: m does nothing.
    expect(chosen).to_contain_text("left over 19.98")
    page.keyboard.press("m")
    expect(page.get_by_role("button", name="Match m")).to_be_disabled()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Space")
    expect(chosen).to_contain_text("left over 0.00")
    assert violations(page) == []
    page.keyboard.press("m")
    matched = page.get_by_role("region", name="Matched")
    expect(matched).to_contain_text("WP-2")
    expect(matched).to_contain_text("by hand, first.owner@inkwell.example")
    matched.get_by_role("button", name="Take back the line of 7 Oct 2026, 33.92").click()
    expect(page.get_by_role("list", name="Open lines").get_by_role("listitem")).to_have_count(2)
    assert {one.state for one in account(world).lines()} == {"open"}


def test_what_may_belong_together_is_proposed_and_what_is_no_payout_is_excluded(signed_in: Page, world: World) -> None:
    """One press for the one; a reason for the other."""
    take(world, camt_entry("2026-10-06", "-650.00", reference="B1", text="RENT MILL"), SAYS_NOTHING)
    page = signed_in
    page.goto(f"/{world.slug}/bank")
    page.get_by_role("button", name="That is it: WP-2").click()
    expect(page.get_by_role("region", name="Matched")).to_contain_text("WP-2")
    left = page.get_by_role("list", name="Open lines").get_by_role("checkbox")
    # The two lists are asked for side by side, and the other may be there first.
    expect(left).to_have_count(1)
    left.check()
    expect(page.get_by_role("button", name="Exclude")).to_be_disabled()
    page.get_by_label("Why, or what it is").fill("Rent of the mill")
    page.get_by_role("button", name="Exclude").click()
    excluded = page.get_by_role("region", name="Excluded")
    expect(excluded).to_contain_text("Rent of the mill, first.owner@inkwell.example")
    expect(page.get_by_text("Every line is known.")).to_be_visible()
    assert violations(page) == []
    excluded.get_by_role("button", name="Open again").click()
    expect(page.get_by_role("list", name="Open lines")).to_contain_text("RENT MILL")
    assert [one.text for one in lines(world)] == ["RENT MILL"]


def test_the_first_account_is_added_here(signed_in: Page, world: World) -> None:
    """A second one, for that matter: the page is the account's from then on."""
    page = signed_in
    page.goto(f"/{world.slug}/bank")
    page.get_by_role("button", name="Add an account").click()
    form = page.get_by_role("form", name="Add a bank account")
    for label, text in (("Name", "Reserve account"), ("Number", "12-34-56 87654321"), ("Account of the books", "1270"),
                        ("Currency", "gbp")):  # fmt: skip
        form.get_by_label(label, exact=True).fill(text)
    form.get_by_label("Books", exact=True).select_option("uk-books")
    form.get_by_role("button", name="Add the account").click()
    expect(page.get_by_text("12-34-56 87654321, account 1270 of uk-books. No statement yet.")).to_be_visible()
    page.get_by_label("Account", exact=True).select_option("Current account")
    expect(page.get_by_text("account 1200 of uk-books")).to_be_visible()
    assert violations(page) == []
