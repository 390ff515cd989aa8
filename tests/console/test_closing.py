"""Closing a month on the page Tie-out: accepting what is open, closing, what changed since, opening again."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.carriage.test_closing import carried, november, with_one_held
from tests.carriage.test_planted_faults import read_again
from tests.carriage.test_reading_again import edit, of_order
from tests.console.conftest import violations
from tests.support.changing import FIRST
from tests.support.world import World

__all__ = ["carried", "november"]
AT = "tie-out?first=2026-10-01&last=2026-10-31"


def test_a_month_from_open_to_closed_and_open_again(signed_in: Page, carried: World) -> None:
    """One order is held: somebody accepts that with a note, closes the month, and sees an invoice leave it later."""
    with_one_held(carried)
    other = {"slug": "another", "name": "Another", "country": "IE", "currency": "EUR", "time_zone": "Europe/Dublin"}
    carried.calls.create_company(**other)
    page = signed_in
    page.goto(f"/{carried.slug}/{AT}")
    closing = page.get_by_role("region", name="Closing October 2026")
    expect(closing.get_by_text("A month is closed company by company")).to_be_visible()
    closing.get_by_role("link", name="Marrowby Yarn & Dye Works Ltd").click()
    expect(closing.get_by_role("status")).to_have_text("One item is to be mended, or accepted with a note.")
    expect(closing.get_by_role("button", name="Close the month…")).to_have_count(0)
    row = closing.get_by_role("row", name=re.compile("held: a tax class has no tax code"))
    expect(row).to_contain_text("33.92")
    row.get_by_role("button", name="Accept… held: a tax class has no tax code, 1 document").click()
    expect(row.get_by_label("Why it is right as it is")).to_be_focused()
    assert violations(page) == []
    row.get_by_label("Why it is right as it is").fill("It goes into November")
    row.get_by_role("button", name="Accept", exact=True).click()
    expect(row).to_contain_text("“It goes into November”")
    expect(closing.get_by_role("status")).to_have_text("Nobody has to do anything more about it.")
    closing.get_by_role("button", name="Close the month…").click()
    closing.get_by_label("A note beside the closing").fill("Agreed with the accountant")
    closing.get_by_role("button", name="Close the month", exact=True).click()
    expect(closing.get_by_role("status")).to_contain_text("“Agreed with the accountant”. Its figures are frozen")
    expect(closing.get_by_text("Nothing has changed in it since.")).to_be_visible()

    edit(carried, "invoice", of_order(carried, "invoice")["id"], date="2026-11-02")
    read_again(carried)
    page.reload()
    expect(closing.get_by_role("heading", name="Since it was closed 1 document changed")).to_be_visible()
    expect(closing.get_by_role("row", name="Sales GBP 0 0.00 −1 −13.94")).to_be_visible()
    closing.get_by_role("button", name="Which documents").click()
    expect(closing.get_by_role("link", name=FIRST)).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []

    with page.expect_download() as download:
        closing.get_by_label("Language of the report").select_option("de")
        closing.get_by_role("link", name="PDF").click()
    assert download.value.suggested_filename == "marrowby-uk-2026-10.pdf"
    closing.get_by_role("button", name="Open it again…").click()
    closing.get_by_label("Why it is opened again").fill("An invoice went into the wrong month")
    closing.get_by_role("button", name="Open the month again").click()
    expect(closing.get_by_role("status")).to_contain_text("to be mended, or accepted with a note")


def test_two_people_close_where_the_company_says_so(signed_in: Page, carried: World) -> None:
    """Set on the page Settings; the one who proposed is told that another person closes."""
    page = signed_in
    page.goto(f"/{carried.slug}/settings")
    company = page.get_by_role("listitem").filter(has_text="marrowby-uk")
    company.get_by_label("Two people close a month").check()
    company.get_by_label("Reports in").select_option("German")
    expect(company.get_by_label("Two people close a month")).to_be_checked()
    assert violations(page) == []
    page.goto(f"/{carried.slug}/{AT}&company=marrowby-uk")
    closing = page.get_by_role("region", name="Closing October 2026")
    expect(closing.get_by_label("Language of the report")).to_have_value("de")
    closing.get_by_role("button", name="Propose to close it…").click()
    closing.get_by_role("button", name="Propose", exact=True).click()
    expect(closing.get_by_role("status")).to_contain_text("proposed to close it; another person does.")
    closing.get_by_role("button", name="Close the month…").click()
    closing.get_by_role("button", name="Close the month", exact=True).click()
    expect(closing.get_by_role("alert")).to_contain_text("You proposed this month")
    closing.get_by_role("button", name="Propose it no longer").click()
    expect(closing.get_by_role("button", name="Propose to close it…")).to_be_visible()
