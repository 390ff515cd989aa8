"""The page Tie-out: the month, a day, the documents behind an amount, and what somebody changed in the books."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.carriage.test_reading_again import SECOND, edit, of_order, posted, read_again
from tests.console.conftest import violations
from tests.support.changing import FIRST, at
from tests.support.world import World, shop_order

__all__ = ["posted"]
AT = "tie-out?first=2026-10-01&last=2026-10-31"


def test_a_month_its_days_and_the_documents_behind_it(signed_in: Page, posted: World) -> None:
    """13.94 and 21.75 were sold, 9.99 came back; one more is held. From the sheet to the order by its links alone."""
    posted.put_orders(shop_order("MW-10006", currency="KWD", **at(50)))
    posted.run()
    page = signed_in
    page.goto(f"/{posted.slug}/{AT}")
    expect(page.get_by_text("It does not tie yet.")).to_be_visible()
    expect(page.get_by_text("1 document is held.")).to_be_visible()
    sales = page.get_by_role("region", name="Sales, GBP")
    expect(sales.get_by_role("row", name="Gross 35.69 35.69 0.00")).to_be_visible()
    both = page.get_by_role("region", name="Sales and refunds, GBP")
    expect(both.get_by_role("row", name="Documents 3 3 0")).to_be_visible()
    expect(both.get_by_role("row", name="Gross 25.70 25.70 0.00")).to_be_visible()
    expect(
        page.get_by_role("region", name="By tender").get_by_role("row", name=re.compile("card GBP 25.70 25.70"))
    ).to_be_visible()
    assert violations(page) == []
    page.get_by_role("region", name="Sales, KWD").get_by_role("link", name="held: no exchange rate").press("Enter")
    behind = page.get_by_role("region", name="Behind sales, held")
    expect(behind.get_by_role("heading")).to_be_focused()
    expect(behind.get_by_role("row", name=re.compile("MW-10006"))).to_contain_text(
        "held: no exchange rate is known for its day"
    )
    expect(behind.get_by_text("1 document", exact=True)).to_be_visible()
    assert violations(page) == []
    behind.get_by_role("link", name="MW-10006").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("MW-10006")
    page.go_back()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("region", name="Behind sales, held")).to_have_count(0)


def test_a_day_and_the_ones_beside_it(signed_in: Page, posted: World) -> None:
    """By its link, and by the buttons; on a narrow page nothing is cut off."""
    page = signed_in
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/{posted.slug}/{AT}")
    expect(page.get_by_text("It ties.")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    days = page.get_by_role("region", name="Day by day")
    days.get_by_role("link", name="3 Oct 2026").click()
    expect(page.get_by_role("region", name="Sales, GBP").get_by_role("row", name="Documents 2 2 0")).to_be_visible()
    page.get_by_role("button", name="Day before").click()
    expect(page.get_by_text("Nothing on either side")).to_be_visible()
    page.get_by_role("button", name="The whole month").click()
    expect(page.get_by_role("region", name="Day by day")).to_be_visible()


def test_what_somebody_changed_in_the_books_is_told_first(signed_in: Page, posted: World) -> None:
    """An account that is another moves no sum of the month, and it does not tie; the other was voided."""
    invoice = of_order(posted, "invoice")
    edit(posted, "invoice", invoice["id"], lines=[{**line, "account": "4100"} for line in invoice["lines"]])
    edit(posted, "invoice", of_order(posted, "invoice", SECOND)["id"], state="void")
    read_again(posted)
    page = signed_in
    page.goto(f"/{posted.slug}/today")
    expect(page.get_by_text("1 document is changed in the books.")).to_be_visible()
    expect(page.get_by_text("1 document is voided in the books.")).to_be_visible()
    page.get_by_role("link", name="The whole sheet").click()
    page.get_by_role("region", name="Sales, GBP").get_by_role("link", name="voided in the books").click()
    rows = page.get_by_role("region", name="Behind sales, voided in the books")
    expect(rows.get_by_role("row", name=re.compile(SECOND))).to_contain_text("21.75")
    expect(rows.get_by_role("link", name=FIRST)).to_have_count(0)
