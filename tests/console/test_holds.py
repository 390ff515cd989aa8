"""Forty orders held by one cause: told of, followed by the link, mended in place, let go, and proved."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_documents import FIRST, SOCK, a_world, facts, product, rules
from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, invoices_alone, joined, shop_order, wait_for, with_holds

FORTY = 40


def of_class(number: int, name: str) -> dict[str, Any]:
    """A plain order of that tax class."""
    order = shop_order("MW-10006")
    basket = [{**row, "tax": {**row["tax"], "class": name}} for row in order["basket"]]
    return {**order, "id": 60_000 + number, "reference": f"MW-{60_000 + number}", "basket": basket}


@pytest.fixture
def forty(world: World) -> World:
    """A world with forty orders of a class that has no code."""
    world.put_orders(*[of_class(number, "woad") for number in range(FORTY)], reset=True)
    world.run()
    wait_for(lambda: world.calls.troubles().troubles or None, seconds=20, what="the notice")
    return world


def test_forty_orders_are_told_of_mended_in_place_let_go_and_proved(signed_in: Page, forty: World) -> None:
    """From the bell to the books, without leaving the page of holds. 40 times 33.92 are 1,356.80."""
    page = signed_in
    page.goto(f"/{forty.slug}/today")
    page.get_by_role("button", name="Notices 1 new").click()
    link = page.get_by_role("link", name="40 orders held, 1,356.80 GBP: a tax class has no tax code")
    link.click()
    expect(page.get_by_role("button", name="Notices 1 open")).to_be_visible()
    group = page.get_by_role("region", name="tax class woad")
    expect(group).to_contain_text("40 orders")
    expect(group).to_contain_text("1,356.80")
    assert violations(page) == []
    group.get_by_label("Tax code for woad").fill("S20")
    group.get_by_role("button", name="See what it would free").click()
    expect(group.get_by_role("status")).to_contain_text("40 of 40 documents would go. Nothing was sent.")
    assert {one.state for one in forty.calls.crossings()} == {"held"}
    assert violations(page) == []
    group.get_by_role("button", name="Publish S20, and let them go").click()
    expect(page.get_by_role("region", name="What became of them")).to_contain_text(
        "40 tried: 40 carried", timeout=60_000
    )
    expect(page.get_by_text("Nothing is held by this any more")).to_be_visible()
    assert "    woad: S20" in forty.calls.bridge(BRIDGE).rulebook(2).text.splitlines()
    states = {document.state for one in forty.calls.crossings() for document in one.documents}
    assert states == {"proved"}
    assert len(forty.invoices()) == FORTY
    wait_for(lambda: not forty.calls.troubles().troubles or None, seconds=20, what="that it is well again")


def test_one_that_would_not_go_says_why_and_one_is_decided(signed_in: Page, world: World) -> None:
    """A wrong code frees nothing; an order of dinars is left out with a reason, and the decision is taken back."""
    page = signed_in
    world.put_orders(of_class(1, "woad"), {**shop_order("MW-10006"), "id": 61_000, "reference": "MW-61000",
                                           "currency": "KWD"}, reset=True)  # fmt: skip
    world.run()
    page.goto(f"/{world.slug}/holds")
    group = page.get_by_role("region", name="tax class woad")
    group.get_by_label("Tax code for woad").fill("NONE")
    group.get_by_role("button", name="See what it would free").click()
    expect(group.get_by_role("status")).to_contain_text("0 of 1 document would go")
    other = page.get_by_role("region", name="currency KWD")
    other.get_by_role("button", name="Try all of them again").click()
    expect(page.get_by_role("region", name="What became of them")).to_contain_text("1 tried: 1 held", timeout=30_000)
    other.get_by_role("link", name="MW-61000").click()
    page.get_by_label("Decide for this one").select_option("leave out")
    page.get_by_label("Reason").fill("Entered in the dinar books.")
    assert violations(page) == []
    page.get_by_role("button", name="Decide", exact=True).click()
    taking_back = page.get_by_role("button", name="Take the decision back")
    expect(taking_back).to_be_visible()
    crossing = next(one for one in world.calls.crossings() if one.number == "MW-61000")
    assert crossing.left_out_by.endswith("Entered in the dinar books.")
    taking_back.click()
    expect(page.get_by_label("Decide for this one")).to_be_visible()


def test_two_values_mapped_one_after_the_other_are_both_mapped(signed_in: Page, world: World) -> None:
    """Both were looked at before either was published: the second does not undo the first."""
    page = signed_in
    world.put_orders(of_class(1, "woad"), of_class(2, "madder"), reset=True)
    world.run()
    page.goto(f"/{world.slug}/holds")
    groups = [page.get_by_role("region", name=f"tax class {name}") for name in ("woad", "madder")]
    for group, name in zip(groups, ("woad", "madder"), strict=True):
        group.get_by_label(f"Tax code for {name}").fill("S20")
        group.get_by_role("button", name="See what it would free").click()
        expect(group.get_by_role("status")).to_contain_text("1 of 1 document would go")
    for group in groups:
        group.get_by_role("button", name="Publish S20, and let them go").click()
        expect(group).to_have_count(0, timeout=30_000)
    text = world.calls.bridge(BRIDGE).rulebook(3).text.splitlines()
    assert {"    woad: S20", "    madder: S20"} <= set(text)


def test_an_article_is_linked_in_place_and_a_contact_chosen(signed_in: Page, stack: Stack, owner: str) -> None:
    """The likeliest item stands there already; two contacts with the buyer's e-mail are offered, one is chosen."""
    page = signed_in
    world = a_world(stack, owner, rules(("accounts:\n  sales", "items:\n  not_found: hold\n\naccounts:\n  sales")))
    email = shop_order(FIRST)["shopper"]["email"]
    twins = [{"code": code, "name": f"Pryce {code}", "email": email} for code in ("C-9", "C-10")]
    world.put("erp", articles=facts()["articles"], contacts=twins)
    world.put("web-shop", products=[product(31, SOCK, "Sock yarn skein, Fenland"), product(32, "BOWL-ASH", "Bowl")])
    world.matched("products")
    world.loaded("uk-books", "contacts")
    world.run()
    page.goto(f"/{world.slug}/holds")
    group = page.get_by_role("region", name=f"product {SOCK}")
    item = group.get_by_label(f"Item that {SOCK} is")
    expect(item).to_have_value("SOCK-FEN")
    assert violations(page) == []
    group.get_by_role("button", name="See what it would free").click()
    expect(group.get_by_role("status")).to_contain_text("1 of 1 document would go. Nothing was sent.")
    group.get_by_role("button", name="Link to SOCK-FEN, and let them go").click()
    other = page.get_by_role("region", name="the customer is unclear")
    expect(other).to_contain_text(email, timeout=30_000)
    assert violations(page) == []
    other.get_by_role("radio", name="Pryce C-9").check()
    other.get_by_role("button", name="Choose, and let the buyer’s documents go").click()
    expect(page.get_by_role("region", name="What became of them")).to_contain_text("1 tried: 1 carried", timeout=30_000)
    (invoice,) = world.invoices()
    assert invoice["lines"][0]["article"] == "SOCK-FEN"
    assert {one["code"] for one in world.books()["contact"] if one["id"] == invoice["contact"]} == {"C-9"}


def test_what_changed_after_it_was_posted_is_compared_and_kept(signed_in: Page, world: World) -> None:
    """Each value before and after; what was posted is kept with a reason, and that is taken back."""
    page = signed_in
    calls = world.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(with_holds(invoices_alone())).number)
    world.put_orders(shop_order("MW-10003"), reset=True)
    world.run()
    invoices = world.invoices()
    world.put_orders(shop_order("MW-10003", state="cancelled", last_change="2026-10-31T19:50:00+00:00"))
    world.run()
    (held,) = world.calls.crossings(state="held")
    page.goto(f"/{world.slug}/documents/{held.id}")
    table = page.get_by_role("region", name="Changed at the sales side since it was posted")
    expect(table.get_by_role("row", name="status paid cancelled")).to_be_visible()
    decide = page.get_by_label("Decide for this one")
    expect(decide.get_by_role("option")).to_contain_text(["Keep what was posted"])
    expect(decide.get_by_role("option", name="Accept the difference")).to_have_count(0)
    decide.select_option("keep posted")
    page.get_by_role("textbox", name="Reason").fill("Collected all the same.")
    assert violations(page) == []
    page.get_by_role("button", name="Decide", exact=True).click()
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("What was posted stays, though the order is another now", timeout=30_000)
    expect(findings).to_contain_text("Collected all the same.")
    assert (world.calls.crossing(held.id).state, world.invoices()) == ("carried", invoices)
    page.get_by_role("button", name="Take the decision back").click()
    expect(decide).to_be_visible(timeout=30_000)
    assert violations(page) == []


def test_whoever_only_looks_is_offered_nothing(signed_in: Page, world: World) -> None:
    """The holds are there to be seen."""
    world.put_orders(of_class(1, "woad"), reset=True)
    world.run()
    joined(world.calls, email=f"owner@{world.slug}.example", role="own")
    world.calls.give_role(email=world.client.session().email, role="see")
    signed_in.goto(f"/{world.slug}/holds")
    group = signed_in.get_by_role("region", name="tax class woad")
    expect(group).to_contain_text("1 order")
    expect(group.get_by_role("button")).to_have_count(0)


@pytest.mark.parametrize("width", [1280, 390])
def test_the_page_fits(signed_in: Page, october: World, width: int) -> None:
    """Wide and narrow, nothing stands beside the page."""
    page = signed_in
    page.set_viewport_size({"width": width, "height": 800})
    page.goto(f"/{october.slug}/holds")
    page.get_by_role("region", name="tax class reduced").wait_for()
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert violations(page) == []
