"""The page of clearing accounts: one is proved, its figures, its open items, and what somebody changed in the books."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.carriage.test_clearing import world
from tests.carriage.test_payouts import FIRST, SECOND
from tests.console.conftest import violations
from tests.support.world import World

__all__ = ["world"]


def prove(page: Page) -> None:
    """Ask for October."""
    page.get_by_label("From").fill("2026-10-01")
    page.get_by_label("To", exact=True).fill("2026-10-31")
    page.get_by_role("button", name="Prove this account").press("Enter")


def test_an_account_is_proved_and_what_stands_there_leads_to_its_order(signed_in: Page, world: World) -> None:
    """47.86 less 13.94 that were paid out: the other order's 33.92, by day, by age and by their number."""
    page = signed_in
    page.goto(f"/{world.slug}/clearing")
    expect(page.get_by_label("Account")).to_contain_text("1250 Weirgate clearing, uk-books")
    expect(page.get_by_text("Not proved yet")).to_be_visible()
    assert violations(page) == []
    prove(page)
    expect(page.get_by_role("status").filter(has_text="It proves.")).to_be_visible()
    chart = page.get_by_role("img")
    expect(chart).to_have_accessible_name(
        "The balance from 1 Oct 2026 to 31 Oct 2026: it began with 0.00, stood at 47.86 at most, and ended with 33.92; "
        "the table below has each day."
    )
    sums = page.get_by_role("region", name="From opening to closing")
    for said in (
        "Charges47.86",
        "Fees−0.41",
        "Tax on fees−0.08",
        "Reserves kept−1.00",
        "Paid out−12.45",
        "Closing33.92",
    ):
        expect(sums).to_contain_text(said)
    expect(page.get_by_role("region", name="Day by day")).to_contain_text("6 Oct 2026")
    assert violations(page) == []
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    page.get_by_role("region", name="Open items, the oldest first").get_by_role("link", name=SECOND).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(SECOND)


def test_what_somebody_changed_in_the_books_is_named(signed_in: Page, world: World) -> None:
    """13.00 in place of 13.94: on both sides, with the order, and the page is clean for whoever reads it aloud."""
    (receipt,) = [one for one in world.books()["receipt"] if one["order"] == FIRST]
    world.put("erp", edited={"receipt": {str(receipt["id"]): {"amount": "13.00"}}})
    page = signed_in
    page.goto(f"/{world.slug}/clearing?account=uk-books/1250")
    prove(page)
    verdict = page.get_by_role("status").filter(has_text="It does not prove.")
    expect(verdict).to_contain_text("1 item is not the same on both sides.")
    expect(verdict).to_contain_text("Another amount: 1 item, −0.94 GBP")
    row = page.get_by_role("region", name="Not the same on both sides").get_by_role("row").nth(1)
    for said in (FIRST, "13.94", "13.00", "−0.94"):
        expect(row).to_contain_text(said)
    expect(page.get_by_text("dashed: in the books")).to_be_visible()
    assert violations(page) == []
    expect(page.get_by_role("region", name="Proofs")).to_contain_text("differs")
    # Another account of the same books, and back by the address.
    page.get_by_label("Account").select_option("uk-books/1270")
    expect(page.get_by_text("By the rules it is for reserves.")).to_be_visible()
    page.go_back()
    expect(verdict).to_be_visible()


def test_books_that_are_away_say_so(signed_in: Page, world: World) -> None:
    """The reason stands where the figures would."""
    world.misbehave("erp", {"call": "accounts.balance", "kind": "said", "body": "no", "times": 9})
    page = signed_in
    page.goto(f"/{world.slug}/clearing")
    prove(page)
    expect(page.get_by_text("It could not be proved")).to_be_visible()
    expect(page.get_by_text("See that the books are connected, and ask again.")).to_be_visible()
    assert violations(page) == []
