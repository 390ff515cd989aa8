"""The page of payouts, a payout on the two-page spread, and the way to it from an order."""

from __future__ import annotations

from playwright.sync_api import Locator, Page, expect

from tests.carriage.test_bank import of_payout, take, world
from tests.carriage.test_payouts import FIRST, PAYOUTS, became, entry, paid, payout, weirgate
from tests.console.conftest import violations
from tests.support.world import World

__all__ = ["weirgate", "world"]


def test_each_entry_leads_to_its_posting(signed_in: Page, weirgate: World) -> None:
    """The payout on the left, its journal on the right; pointing at a fee tells where it went."""
    first, _ = paid(FIRST)
    told = payout(entry("charge", 1394, first, fee=-41, tax=-8, shop_ref=FIRST), entry("set aside", -100))
    weirgate.put("payment-provider", payouts=[told])
    weirgate.run(PAYOUTS)
    page = signed_in
    page.goto(f"/{weirgate.slug}/documents/{became(weirgate).id}")
    expect(page.get_by_role("heading", name="Payout WP-1", exact=True).last).to_be_visible()
    expect(page.get_by_text("Paid out 5 Oct 2026, at the bank 6 Oct 2026 as WEIRGATE WP-1")).to_be_visible()
    for words, amount in ((first, "13.45"), ("reserve kept", "−1.00"), ("7500", "0.41"), ("1200", "12.45")):
        expect(page.get_by_role("row").filter(has_text=words)).to_contain_text(amount)
    page.locator('[data-at="/entries/0/fee"]').hover()
    expect(page.get_by_text("Fees: 1 entry, 0.41 debited.")).to_be_visible()
    assert violations(page) == []
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    page.get_by_role("link", name=FIRST).click()
    expect(page.get_by_role("heading", name="Documents")).to_be_visible()
    expect(page.get_by_role("link", name=FIRST, exact=True)).to_be_visible()


def test_an_order_leads_to_the_payout_that_its_money_is_in(signed_in: Page, weirgate: World) -> None:
    """By a link, with what it comes to and what became of it."""
    first, _ = paid(FIRST)
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394, first))])
    weirgate.run(PAYOUTS)
    (order,) = (one for one in weirgate.calls.crossings() if one.number == FIRST)
    page = signed_in
    page.goto(f"/{weirgate.slug}/documents/{order.id}")
    belongs = page.get_by_role("region", name="What belongs to it")
    expect(belongs).to_contain_text("13.94")
    belongs.get_by_role("link", name="Payout WP-1").click()
    expect(page.get_by_role("heading", name="Payout WP-1", exact=True).last).to_be_visible()


def test_a_payout_that_cannot_be_read_says_so(signed_in: Page, weirgate: World) -> None:
    """Without figures, and with what is wrong."""
    weirgate.put("payment-provider", payouts=[payout(entry("charge", 1394), minor="much")])
    weirgate.run(PAYOUTS)
    page = signed_in
    page.goto(f"/{weirgate.slug}/documents/{became(weirgate).id}")
    expect(page.get_by_text("This payout could not be read, so there are no figures to show.")).to_be_visible()
    expect(page.get_by_text("a whole number of minor units was expected").first).to_be_visible()
    assert violations(page) == []


def test_payouts_with_what_the_bank_still_waits_for(signed_in: Page, world: World) -> None:
    """Two were posted, and the bank has one of them; a third is held, and one of its kind is found by its state."""
    world.put("payment-provider", payouts=[payout(entry("a new thing", -100), number=3)])
    world.run(PAYOUTS)
    page = signed_in
    page.goto(f"/{world.slug}/payouts")
    expect(page.get_by_role("row")).to_have_count(4)
    expect(page.get_by_text("The bank does not have 2 payouts yet, of which 2 are late.")).to_be_visible()
    take(world, of_payout(1, "13.94"))
    world.settled()
    page.reload()
    expect(page.get_by_text("The bank does not have 1 payout yet, of which one is late.")).to_be_visible()

    def row(number: str) -> Locator:
        return page.get_by_role("row").filter(has_text=number)

    for said in ("5 Oct 2026", "33.92 GBP", "carried", "JN-", "late", PAYOUTS):
        expect(row("WP-2")).to_contain_text(said)
    expect(row("WP-1")).to_contain_text("13.94 GBP")
    expect(row("WP-1")).not_to_contain_text("due")
    assert violations(page) == []
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    page.get_by_label("State").select_option("held")
    expect(page.get_by_role("row")).to_have_count(2)
    expect(row("WP-3")).to_contain_text("held")
    assert "state=held" in page.url
    page.get_by_label("Bridge").select_option(index=1)
    expect(page.get_by_text("No payout fits these filters")).to_be_visible()
    page.go_back()
    page.get_by_role("link", name="WP-3").click()
    expect(page.get_by_role("heading", name="Payout WP-3", exact=True).last).to_be_visible()
