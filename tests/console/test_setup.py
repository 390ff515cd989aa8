"""The first hours of a set-up, in the console."""

from __future__ import annotations

import re
from datetime import date
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from inkwell_bridge.client import Client, NotSignedIn
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_adoption import TYPED, type_in
from tests.console.conftest import rules_selected, violations, write_rules
from tests.console.test_history import shoot
from tests.service.test_links import ARTICLES, SOLD, linked
from tests.support.ends import BENCHES, CUSTOMER
from tests.support.world import BRIDGE, PASSWORD, World, joined, new_world, shop_order, wait_for


@pytest.fixture
def bare(stack: Stack, owner: str) -> World:
    """A client's workspace with nothing in it; the ends outside are there."""
    world = new_world(stack, owner, set_up=False)
    Client(stack.address, token=owner).open_workspace(slug=world.slug, name="Marrowby of the console")
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD, customers=[CUSTOMER])
    return world


@pytest.fixture
def linking(world: World) -> World:
    """A world whose products wait to be linked."""
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD)
    world.matched("products")
    return world


def connect(page: Page, world: World, *, kind: str, name: str, address: str, credentials: dict[str, str]) -> None:
    """Fill the form of an end."""
    page.goto(f"/{world.slug}/connections/new")
    page.get_by_label("Kind").select_option(kind)
    page.get_by_label("Name").fill(name)
    page.get_by_label("Address").fill(address)
    page.get_by_label("Company").select_option("marrowby-uk")
    for label, value in credentials.items():
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name="Connect and check").click()


def test_the_whole_set_up(signed_in: Page, bare: World) -> None:
    """From an empty workspace to the first order in the books, in the order of the work."""
    page, shop, books = signed_in, facts()["web_shop"], facts()["books"]
    page.goto(f"/{bare.slug}/settings")
    form = page.get_by_role("region", name="Companies")
    for label, value in {"Name": "Marrowby Yarn & Dye Works Ltd", "Short name": "marrowby-uk", "Country": "GB",
                         "Currency": "GBP", "Time zone": "Europe/London"}.items():  # fmt: skip
        form.get_by_label(label, exact=True).fill(value)
    form.get_by_role("button", name="Add the company").click()
    expect(form.get_by_text("GBP, Europe/London")).to_be_visible()

    connect(page, bare, kind="web-shop", name="Web shop", address=f"  {bare.stack.shop}/{bare.slug}/api/ ",
            credentials={"Key": f"{shop['key']} ", "Secret": shop["secret"]})  # fmt: skip
    expect(page.get_by_text("What you pasted was mended: spaces and line breaks were taken out;")).to_be_visible()
    expect(page.get_by_text("Marrowby web shop")).to_be_visible()
    expect(page.get_by_text("read orders")).to_be_visible()
    connect(page, bare, kind="erp", name="UK books", address=f"{bare.stack.erp}/{bare.slug}",
            credentials={"User": books["user"], "Password": "wrong"})  # fmt: skip
    expect(page.get_by_text("unknown user or wrong password")).to_be_visible()
    page.get_by_role("link", name="Go to UK books").click()
    page.get_by_label("Password").fill(books["password"])
    page.get_by_role("button", name="Save and check").click()
    expect(page.get_by_role("heading", name="Check connected")).to_be_visible()

    page.get_by_role("button", name="Load now").click()
    expect(page.get_by_text("5 read for the first time, just now", exact=True)).to_be_visible()
    page.get_by_role("button", name="items 5").click()
    expect(page.get_by_role("cell", name="Oak yarn bowl")).to_be_visible()
    page.goto(f"/{bare.slug}/connections/web-shop")
    page.get_by_role("button", name="Load now").click()
    expect(page.get_by_text("6 read for the first time, just now", exact=True)).to_be_visible()

    page.goto(f"/{bare.slug}/bridges")
    expect(page.get_by_text("No bridge yet")).to_be_visible()
    page.get_by_role("button", name="Lay a bridge").click()
    page.get_by_label("Name").fill(BRIDGE)
    page.get_by_label("From").select_option("web-shop")
    page.get_by_label("To").select_option("uk-books")
    page.get_by_label("Company").select_option("marrowby-uk")
    page.get_by_role("button", name="Lay the bridge").click()
    expect(page.get_by_text("No rulebook is written yet.")).to_be_visible()
    write_the_rules(page)
    expect(page.get_by_text("Version 2 is in force.")).to_be_visible()

    page.get_by_label("Number of an order").fill("MW-10003")
    page.get_by_role("button", name="Try it").click()
    expect(page.get_by_text("MW-10003 would be carried by version 2 of the rules.")).to_be_visible()
    expect(page.get_by_text("The price of 9.99, less the tax of 1.67 inside it, is 8.32.")).to_be_visible()
    assert bare.invoices() == []
    page.get_by_role("button", name="Send this one").click()
    expect(page.get_by_text("Sent, as run ")).to_be_visible()
    page.get_by_label("First day").fill("2026-10-01")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("Orders placed from 01 October 2026 on are carried")).to_be_visible()
    page.get_by_label("orders").click()
    expect(page.get_by_text("On: orders.")).to_be_visible()
    bare.settled()
    assert [invoice["order"] for invoice in bare.invoices()] == ["MW-10003"]


def test_what_stands_open_is_entered_at_the_cut_over(signed_in: Page, world: World) -> None:
    """A slip is told, the balances are posted, and the spread shows them beside their journal."""
    world.calls.bridge(BRIDGE).change(starts_on=date(2026, 10, 1))
    rules = world.calls.bridge(BRIDGE)
    rules.publish_rulebook(rules.write_rulebook(rulebook_text(BRIDGE)).number)
    page = signed_in
    page.goto(f"/{world.slug}/bridges/{BRIDGE}")
    form = page.get_by_role("form", name="Opening balances")
    form.get_by_label("Gift cards").fill("a lot")
    form.get_by_label("Against").fill("3000")
    form.get_by_role("button", name="Post the opening balances").click()
    expect(form.get_by_role("alert")).to_be_visible()
    form.get_by_label("Gift cards").fill("120.00")
    form.get_by_label("Clearing account").fill("1250")
    form.get_by_label("On it").fill("40.00")
    assert violations(page) == []
    form.get_by_role("button", name="Post the opening balances").click()
    expect(page.get_by_text("Opening balances as of 01 October 2026: carried.")).to_be_visible()
    page.goto(f"/{world.slug}/documents/{world.calls.bridge(BRIDGE).opening().crossing}")
    page.locator('[data-at="/documents/0/lines/0/base"]').hover()
    expect(page.get_by_text("The opening balance of gift cards, 120.00, is credited, for it is owed.")).to_be_visible()
    assert violations(page) == []


def write_the_rules(page: Page) -> None:
    """On their page: a slip is told with its line, an account that is not there too; then they are in force."""
    page.get_by_role("link", name="Look at the rules").click()
    keep = page.get_by_role("button", name="Check and save as a draft")
    right = rulebook_text(BRIDGE)
    write_rules(page, right.replace("become: invoice", "become: poem"))
    keep.click()
    slip = right.splitlines().index("  become: invoice") + 1
    page.get_by_role("button", name=f"line {slip}").click()
    expect(page.get_by_label("Text of the rules")).to_be_focused()
    assert rules_selected(page) == "  become: poem"
    write_rules(page, right.replace('"4000"', '"4001"'))
    keep.click()
    expect(page.get_by_role("heading", name="Version 1", exact=True)).to_be_visible()
    expect(page.get_by_text("4001", exact=False).last).to_be_visible()
    page.get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_role("alert").filter(has_text="4001").first).to_be_visible()
    assert violations(page) == []
    write_rules(page, right)
    keep.click()
    page.get_by_role("button", name="Publish version 2").click()
    expect(page.get_by_text("in force, ")).to_be_visible()
    page.go_back()


def test_a_loading_that_is_over_at_once_shows_its_lists(signed_in: Page, bare: World) -> None:
    """The console hears of it only when it is over, and shows what was loaded all the same."""
    bare.calls.create_company(slug="marrowby-uk", name="Marrowby", country="GB", currency="GBP", time_zone="UTC")
    credentials = {name: facts()["books"][name] for name in ("user", "password")}
    books = bare.calls.create_connection(slug="uk-books", name="Books", kind="erp", credentials=credentials,
                                         company="marrowby-uk", address=f"{bare.stack.erp}/{bare.slug}")  # fmt: skip

    def answered_late(route: Route) -> None:
        if route.request.method != "POST":
            route.continue_()
            return
        response = route.fetch()
        calls = bare.calls.connection(books.slug)
        wait_for(lambda: None if any(one.under_way for one in calls.loadings()) else True, seconds=60, what="loading")
        route.fulfill(response=response)

    page = signed_in
    page.route("**/loadings*", answered_late)
    page.goto(f"/{bare.slug}/connections/uk-books")
    expect(page.get_by_text("Nothing was loaded yet")).to_be_visible()
    page.get_by_role("button", name="Load now").click()
    page.get_by_role("button", name="items 5").click()
    expect(page.get_by_role("cell", name="Oak yarn bowl")).to_be_visible()


def test_products_are_linked_by_keyboard_alone(signed_in: Page, linking: World) -> None:
    """Yes, a pack, another, none, create, undo: no mouse."""
    page, links = signed_in, linking.calls.bridge(BRIDGE).links("products")
    page.goto(f"/{linking.slug}/bridges/{BRIDGE}/links/products")
    counts = page.get_by_label("How far the linking is")
    expect(counts).to_contain_text("4 open")

    def at(name: str) -> None:
        expect(page.get_by_role("region", name=f"Question about {name}")).to_be_visible()

    at("Yarn bowl, ash")
    page.keyboard.press("2")
    at("Starter box")
    expect(counts).to_contain_text("3 open")
    page.keyboard.press("u")
    at("Yarn bowl, ash")
    page.keyboard.press("Enter")
    at("Starter box")
    page.keyboard.press("1")
    at("Bamboo needles 4.0 mm, box of six")
    page.keyboard.press("/")
    page.keyboard.type("bamboo")
    expect(page.get_by_role("option", name="Bamboo needles, 4.0 mm")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("region", name="Question about Bamboo").focus()
    page.keyboard.press("1")
    at("Gift card")
    page.keyboard.press("s")
    expect(page.get_by_text("That was the last one")).to_be_visible()
    page.get_by_role("button", name="Begin again").focus()
    page.keyboard.press("Enter")
    at("Gift card")
    page.keyboard.press("c")
    expect(page.get_by_text("Every question is answered")).to_be_visible()
    assert linked(links) == {
        "31": [("YRN-MER4-HEA", 1, "code")], "32": [("DYE-MAD", 1, "barcode")], "33": [("BWL-ASH", 1, "person")],
        "34": [("YRN-MER4-HEA", 2, "person"), ("NDL-BAM-40", 1, "person")], "35": [("NDL-BAM-40", 6, "person")],
        "36": [("GIFT", 1, "made in the books")],
    }  # fmt: skip


def test_another_is_chosen_from_the_books_by_keyboard(signed_in: Page, linking: World) -> None:
    """Part of its name, down, enter."""
    page = signed_in
    page.goto(f"/{linking.slug}/bridges/{BRIDGE}/links/products")
    expect(page.get_by_role("region", name="Question about Yarn bowl, ash")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("dye powder")
    expect(page.get_by_role("option", name="Madder dye powder")).to_be_visible()
    # Once nothing else is offered, what was typed has been looked for to its end.
    expect(page.get_by_role("option")).to_have_count(1)
    if not page.locator("[role=option][data-focus]").count():
        page.keyboard.press("ArrowDown")
    expect(page.locator("[role=option][data-focus]")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Question about Starter box")).to_be_visible()
    # The next question is there before the answer to the last has arrived.
    expect(page.get_by_label("How far the linking is")).to_contain_text("3 open")
    assert linked(linking.calls.bridge(BRIDGE).links("products"))["33"] == [("DYE-MAD", 1, "person")]


def test_a_table_is_brought_in_after_a_look(signed_in: Page, linking: World, tmp_path: Path) -> None:
    """What it would change, every bad row, then the change, and back."""
    page = signed_in
    file = tmp_path / "links.csv"
    file.write_text("product_id,item_code\n33,BWL-ASH\n36,none\n35,NO-SUCH\n", "utf-8")
    page.goto(f"/{linking.slug}/bridges/{BRIDGE}/links/products?view=import")
    page.get_by_label("File").set_input_files(file)
    expect(page.get_by_text("3 rows: 2 new, 0 other than before, 0 as they are, 0 unanswered.")).to_be_visible()
    expect(page.get_by_role("row", name="4 item_code there is no item with the code 'NO-SUCH'")).to_be_visible()
    assert linking.calls.bridge(BRIDGE).links("products").counts().open == 4
    page.get_by_role("button", name="Put 2 links in place").click()
    expect(page.get_by_label("How far the linking is")).to_contain_text("2 open")
    page.get_by_role("button", name="Take the import back").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()
    expect(page.get_by_label("How far the linking is")).to_contain_text("4 open")


def test_progress_is_shown_while_names_are_loaded(signed_in: Page, linking: World) -> None:
    """A bar that moves, then what changed."""
    page = signed_in
    linking.put("erp", articles=[{"code": "NEW-1", "name": "Something new"}])
    linking.misbehave("erp", {"call": "articles.list", "kind": "latency", "seconds": 1.2})
    page.goto(f"/{linking.slug}/connections/uk-books")
    page.get_by_role("button", name="Load now").click()
    expect(page.get_by_role("button", name="Loading…")).to_be_disabled()
    expect(page.get_by_role("progressbar", name="Loading items")).to_be_visible()
    expect(page.get_by_text("6 read: 1 added, 0 changed, 0 gone")).to_be_visible()
    page.get_by_role("button", name="items 6").click()
    page.get_by_role("button", name="1 added").click()
    expect(page.get_by_role("cell", name="NEW-1")).to_be_visible()
    expect(page).to_have_url(re.compile(r"list=items&change=added$"))


def test_another_company_is_switched_to_on_purpose(signed_in: Page, world: World) -> None:
    """Its name is typed; a slip is not enough."""
    page = signed_in
    world.run()
    world.change_books(name="Marrowby Ireland books")
    page.goto(f"/{world.slug}/connections/uk-books")
    page.get_by_role("button", name="Check now").click()
    form = page.get_by_role("region", name="Switch to another company")
    form.get_by_label("Company").fill("Marrowby Ireland")
    form.get_by_role("button", name="Switch", exact=True).click()
    expect(form.get_by_role("alert")).to_contain_text("says that it belongs to Marrowby Ireland books")
    form.get_by_label("Company").fill("Marrowby Ireland books")
    form.get_by_role("button", name="Switch", exact=True).click()
    expect(form.get_by_text(f"These lanes will be switched off: orders over {BRIDGE}.")).to_be_visible()
    form.get_by_role("button", name="Leave it as it is").click()
    form.get_by_role("button", name="Switch", exact=True).click()
    form.get_by_role("button", name="Switch, and end this").click()
    expect(page.get_by_role("heading", name="Check connected")).to_be_visible()


def test_a_bridge_then_its_connection_are_removed(signed_in: Page, world: World) -> None:
    """What would end is said first; the connection only once nothing stands on it."""
    page = signed_in
    world.run()
    page.goto(f"/{world.slug}/connections/uk-books")
    page.get_by_role("button", name="Remove this connection").click()
    expect(page.get_by_role("alert")).to_contain_text(f"is an end of {BRIDGE}")
    page.goto(f"/{world.slug}/bridges/{BRIDGE}")
    page.get_by_role("button", name="Remove this bridge").click()
    expect(page.get_by_text("carried documents will stay in the books")).to_be_visible()
    shoot(page, "remove-bridge")
    page.get_by_role("button", name="Remove Web shop to UK books").click()
    expect(page.get_by_text("No bridge yet")).to_be_visible()
    world.settled()
    page.goto(f"/{world.slug}/connections/uk-books")
    page.get_by_role("button", name="Remove this connection").click()
    page.get_by_role("button", name="Remove Marrowby UK books").click()
    expect(page.get_by_role("heading", name="Connections")).to_be_visible()
    expect(page.get_by_text("Marrowby UK books")).to_have_count(0)
    assert [one.slug for one in world.calls.connections()] == ["web-shop"]


def test_who_may_only_see_changes_nothing(page: Page, linking: World) -> None:
    """No form, no key with an effect."""
    email = f"look@{linking.slug}.example"
    joined(linking.calls, email=email, role="see", password="a-long-enough-password")
    page.goto("/")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill("a-long-enough-password")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    page.goto(f"/{linking.slug}/bridges/{BRIDGE}/links/products")
    expect(page.get_by_role("region", name="Question about Yarn bowl, ash")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("button", name="None")).to_be_disabled()
    page.goto(f"/{linking.slug}/connections/uk-books")
    expect(page.get_by_role("heading", name="Rights")).to_be_visible()
    for name in ("Check now", "Load now", "Save and check"):
        expect(page.get_by_role("button", name=name)).to_have_count(0)
    assert linking.calls.bridge(BRIDGE).links("products").counts().open == 4


@pytest.mark.parametrize(
    "path", ["connections", "connections/new", "connections/uk-books", "bridges", f"bridges/{BRIDGE}",
             f"bridges/{BRIDGE}/links/products", f"bridges/{BRIDGE}/links/products?view=table",
             f"bridges/{BRIDGE}/links/customers?view=import", "settings", f"bridges/{BRIDGE}/rules", "base-rules",
             "account"],
)  # fmt: skip
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_page_can_be_used_by_everybody(signed_in: Page, october: World, path: str, theme: str) -> None:
    """axe finds nothing, by day and by night."""
    signed_in.goto(f"/{october.slug}/{path}")
    expect(signed_in.get_by_role("heading", level=1)).to_be_visible()
    signed_in.wait_for_load_state("networkidle")
    if theme == "dark":
        signed_in.evaluate("document.documentElement.classList.add('dark')")
    assert violations(signed_in) == []


def test_a_token_is_made_shown_once_and_withdrawn(signed_in: Page, world: World) -> None:
    """For this workspace alone, with no more than its role, until its day."""
    page = signed_in
    page.goto(f"/{world.slug}/account")
    form = page.get_by_role("region", name="Your tokens")
    form.get_by_label("What it is for").fill(f"Report of {world.slug}")
    form.get_by_label("May at most").select_option("see")
    form.get_by_label("Last day").fill("2030-01-01")
    form.get_by_label("Your password").fill(PASSWORD)
    form.get_by_role("button", name="Make the token").click()
    token = form.locator("code").inner_text()
    calls = Client(world.stack.address, token=token).workspace(world.slug)
    assert calls.read().role == "see"
    page.reload()
    expect(form.locator("code")).to_have_count(0)
    expect(form.get_by_text(f"See, {world.slug}, until 1 Jan 2030")).to_be_visible()
    form.get_by_role("button", name=f"Withdraw Report of {world.slug}").click()
    expect(form.get_by_text(f"Report of {world.slug}")).to_have_count(0)
    with pytest.raises(NotSignedIn):
        calls.read()


def test_an_adopted_order_shows_what_the_books_hold(signed_in: Page, world: World) -> None:
    """Its head and its totals; there is no plan to show."""
    world.put_orders(shop_order(TYPED), reset=True)
    type_in(world, TYPED, "13.94")
    world.run()
    (crossing,) = world.calls.crossings()
    page = signed_in
    page.goto(f"/{world.slug}/documents/{crossing.id}")
    expect(page.get_by_role("heading", name="Invoice SI-00001")).to_be_visible()
    expect(page.get_by_text("it was in the books already; nothing was posted for this order")).to_be_visible()
    expect(page.get_by_text("Dated 5 Oct 2026")).to_be_visible()
    expect(page.get_by_text("which somebody typed into the books, bears the number MW-10003")).to_be_visible()
    assert violations(page) == []


@pytest.mark.goes_to("marketplace")
def test_signing_in_through_a_consent_page(signed_in: Page, bare: World) -> None:
    """To the marketplace's own page and back; what was not allowed there is told; allowed, it is connected."""
    page, market = signed_in, BENCHES["marketplace"]
    page.goto(f"/{bare.slug}/connections/new")
    page.get_by_label("Kind").select_option("marketplace")
    page.get_by_label("Name").fill("Lanternfair")
    page.get_by_label("Address").fill(market.address(bare))
    page.get_by_label("Application id").fill(market.credentials["client_id"])
    page.get_by_label("Application secret").fill(market.credentials["client_secret"])
    page.get_by_label("How we sign in").select_option("consent page")
    page.get_by_role("button", name="Connect and check").click()
    expect(page.get_by_role("heading", name="Check sign-in")).to_be_visible()
    page.get_by_role("link", name="Go to Lanternfair").click()
    expect(page.get_by_text("Nobody has signed in there yet.")).to_be_visible()
    assert violations(page) == []

    page.get_by_role("button", name="Sign in there").click()
    page.get_by_role("button", name="Refuse").click()
    expect(page.get_by_text("Lanternfair did not let us in: access_denied.")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="Back to the connection").click()

    page.get_by_role("button", name="Sign in there").click()
    page.get_by_label("note parcels on its sales").uncheck()
    page.get_by_role("button", name="Allow").click()
    expect(page.get_by_role("heading", name="Check limited")).to_be_visible()
    expect(page.get_by_role("listitem").filter(has_text="missing: tell of parcels")).to_be_visible()
    assert "code=" not in page.url

    page.get_by_role("button", name="Sign in there again").click()
    page.get_by_role("button", name="Allow").click()
    expect(page.get_by_role("heading", name="Check connected")).to_be_visible()
    expect(page.get_by_text("signed in there just now")).to_be_visible()


def test_a_buyer_is_erased(signed_in: Page, world: World) -> None:
    """By e-mail; what was erased is said, and the figures stay."""
    page, order = signed_in, shop_order("MW-10003")
    world.put_orders(order, reset=True)
    world.run()
    page.goto(f"/{world.slug}/settings")
    page.get_by_label("E-mail of the buyer").fill(order["shopper"]["email"])
    page.get_by_role("button", name="Erase", exact=True).click()
    expect(page.get_by_text("Erased in 1 document and 0 loaded names.")).to_be_visible()
    (crossing,) = world.calls.crossings()
    spread = world.calls.crossing(crossing.id)
    assert (spread.buyer, str(spread.gross)) == (None, order["total"])


@pytest.mark.parametrize("width", [1280, 390])
def test_somebody_is_invited_and_comes(signed_in: Page, world: World, width: int) -> None:
    """The link is shown to hand on; whoever opens it chooses a password, joins and signs in."""
    page, email = signed_in, f"bram{width}@{world.slug}.example"
    page.goto(f"/{world.slug}/settings")
    page.get_by_label("E-mail", exact=True).fill(email)
    page.get_by_label("Role", exact=True).select_option("operate")
    page.get_by_role("region", name="People").get_by_label("Name", exact=True).fill("Bram Okafor")
    page.get_by_role("button", name="Invite").click()
    link = page.get_by_role("status").locator("code").inner_text()
    expect(page.get_by_text("invited until")).to_be_visible()
    assert page.context.browser is not None
    other = page.context.browser.new_page(viewport={"width": width, "height": 800}, base_url=world.stack.address)
    other.goto(link)
    expect(other.get_by_text("with the role “Operate”")).to_be_visible()
    assert violations(other) == []
    other.get_by_label("Choose a password").fill("short")
    other.get_by_role("button", name="Join").click()
    expect(other.get_by_role("alert")).to_contain_text("at least 12 characters")
    other.get_by_label("Choose a password").fill("a-password-of-brams-own")
    shoot(other, f"invitation-{width}")
    other.get_by_role("button", name="Join").click()
    other.get_by_role("link", name="Sign in").click()
    other.get_by_label("E-mail").fill(email)
    other.get_by_label("Password").fill("a-password-of-brams-own")
    other.get_by_role("button", name="Sign in").click()
    expect(other.get_by_role("heading", name="Today")).to_be_visible()
    other.goto(link)
    expect(other.get_by_role("alert")).to_contain_text("was taken up, withdrawn or has ended")
    other.close()
    page.reload()
    page.get_by_label(f"Role of {email}").select_option("edit")
    expect(page.get_by_label(f"Role of {email}")).to_have_value("edit")
    page.get_by_role("button", name=f"Remove {email}").click()
    expect(page.get_by_role("region", name="People").get_by_text(email)).to_have_count(0)
