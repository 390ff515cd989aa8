"""What every end must do, asked of each through real HTTP."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal

import httpx
import pytest

from inkwell_bridge.core.books import Contact, Invoice, Standing
from inkwell_bridge.core.planner import plan_order
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.contract import BooksEnd, Opening, SalesEnd, kinds
from inkwell_bridge.ends.errors import Away, Busy, EndError, OutcomeUnknown, Refused
from inkwell_bridge.ends.http import Limits
from inkwell_bridge.ends.web_shop.shop import WebShop
from inkwell_bridge.launch.stack import Stack
from tests.support.orders import order, setting
from tests.support.world import HTTP, World

LIMITS = Limits(timeout_seconds=0.6, connect_timeout_seconds=0.6)
GOOD = {"web-shop": {"key": "mwshop_demo_key", "secret": "mwshop-demo-secret-0b1f"},
        "erp": {"user": "inkwell", "password": "uk-books-demo-password-77c2"}}  # fmt: skip


def address(world: World, kind: str) -> str:
    """Where an end of a world is."""
    return f"{world.stack.shop}/{world.slug}/api" if kind == "web-shop" else f"{world.stack.erp}/{world.slug}"


def opened(world: World, kind: str, **credentials: str) -> SalesEnd | BooksEnd:
    """An end, open."""
    opening = Opening(address=address(world, kind), credentials={**GOOD[kind], **credentials}, limits=LIMITS)
    return kinds()[kind].open(opening)  # type: ignore[no-any-return]


@pytest.fixture
def shop(world: World) -> SalesEnd:
    """The web shop of a world."""
    return opened(world, "web-shop")  # type: ignore[return-value]


@pytest.fixture
def books(world: World) -> Iterator[BooksEnd]:
    """The ERP of a world."""
    yield opened(world, "erp")  # type: ignore[misc]
    world.misbehave("erp")


def invoice(**fields: object) -> Invoice:
    """An invoice of one skein with carriage."""
    return plan_order(order(**fields), setting()).documents[0]


@pytest.mark.parametrize("kind", sorted(kinds()))
def test_a_check_says_whose_it_is_and_what_we_may_do(world: World, kind: str) -> None:
    """Company, currency, time zone, and every right by name."""
    check = opened(world, kind).check()
    assert (check.currency, check.time_zone, check.missing) == ("GBP", "Europe/London", ())
    assert check.company.startswith("Marrowby")


@pytest.mark.parametrize(("kind", "secret"), [("web-shop", "secret"), ("erp", "password")])
def test_wrong_credentials_are_refused_without_naming_them(world: World, kind: str, secret: str) -> None:
    """The error says why, and holds no secret."""
    with pytest.raises(Refused) as caught:
        opened(world, kind, **{secret: "not-the-right-one"}).check()
    assert caught.value.why == "credentials"
    assert "not-the-right-one" not in str(caught.value)


@pytest.mark.parametrize("kind", sorted(kinds()))
def test_an_end_that_is_not_there_is_away(kind: str) -> None:
    """Nothing was sent, so nothing can have happened."""
    opening = Opening(address="http://127.0.0.1:9", credentials=GOOD[kind], limits=LIMITS)
    with pytest.raises(Away, match=r"127\.0\.0\.1:9 could not be reached"):
        kinds()[kind].open(opening).check()


def test_a_missing_right_has_a_remedy(world: World, books: BooksEnd) -> None:
    """What to change at the other end."""
    world.change_books(permissions=["read accounts", "read contacts"])
    missing = books.check().missing
    assert [permission.name for permission in missing] == ["write contacts", "write invoices", "post invoices"]
    assert all("give this right" in permission.remedy for permission in missing)
    with pytest.raises(Refused) as caught:
        books.create_draft(invoice(), contact_id="1")
    assert caught.value.why == "permission"


def test_pages_give_every_order_once(shop: SalesEnd) -> None:
    """Sixty orders, over three pages, in the order of their change."""
    numbers, page = [], shop.orders(changed_since=None)
    while True:
        numbers += [document.number for document in page.documents]
        if page.next is None:
            break
        page = shop.orders(changed_since=None, page=page.next)
    assert sorted(numbers) == [f"MW-{number}" for number in range(10001, 10061)]


def test_what_changed_at_the_very_moment_is_listed(shop: SalesEnd) -> None:
    """Changed since includes the moment itself: two orders share one second."""
    since = datetime.fromisoformat("2026-10-13T19:34:07+01:00")
    found = [document.number for document in shop.orders(changed_since=since).documents]
    assert found[:2] == ["MW-10024", "MW-10025"]


def test_an_order_by_number(shop: SalesEnd) -> None:
    """The canonical order, to the penny; and a number that is not there."""
    found = shop.order("MW-10009").order
    assert found is not None
    assert (found.total, found.tax_total, found.discounts[0].amount) == (
        Decimal("49.45"), Decimal("8.25"), Decimal("10.00"),
    )  # fmt: skip
    assert found.buyer is not None
    assert found.buyer.name == "Margit Lindqvist"
    with pytest.raises(Refused) as caught:
        shop.order("MW-0")
    assert caught.value.why == "not found"


@pytest.mark.parametrize(
    ("change", "problem"),
    [
        ({"total": "lots"}, "/total"),
        ({"currency": "pounds"}, "currency code"),
        ({"placed": "yesterday"}, "lacks or misstates"),
        ({"basket": [{"row": 1}]}, "lacks or misstates"),
    ],
)
def test_an_order_that_cannot_be_understood_is_not_lost(world: World, shop: SalesEnd, change: dict[str, object],
                                                        problem: str) -> None:  # fmt: skip
    """It comes back with its number and what is wrong."""
    good = HTTP.get(f"{world.stack.shop}/{world.slug}/control/contents").json()["order"][0]
    world.put_orders({**good, **change})
    found = shop.order(good["reference"])
    assert (found.id, found.number, found.order) == (str(good["id"]), good["reference"], None)
    assert problem in found.problem


@pytest.mark.parametrize("end", ["shop", "erp"])
def test_busy_tells_how_long(world: World, end: str) -> None:
    """Retry-After is passed on."""
    kind, call = ("web-shop", "shop") if end == "shop" else ("erp", "company.describe")
    world.misbehave(end, {"call": call, "kind": "busy", "seconds": 7})
    with pytest.raises(Busy) as caught:
        opened(world, kind).check()
    assert caught.value.retry_after_seconds == 7


@pytest.mark.parametrize("kind", ["broken", "cut", "silent", "late"])
def test_reading_again_does_no_harm_so_no_answer_is_just_away(world: World, books: BooksEnd, kind: str) -> None:
    """A call that changes nothing may simply be made again."""
    world.misbehave("erp", {"call": "invoices.search", "kind": kind})
    with pytest.raises(Away):
        books.find_invoices("INK:web-shop:501:invoice:1")


@pytest.mark.parametrize("kind", ["broken", "cut", "silent", "late"])
def test_a_change_without_an_answer_is_an_unknown_outcome(world: World, books: BooksEnd, kind: str) -> None:
    """Never a failure: it may have been done."""
    world.misbehave("erp", {"call": "invoices.create", "kind": kind, "seconds": 0.1})
    with pytest.raises(OutcomeUnknown):
        books.create_draft(invoice(), contact_id="1")


def test_a_document_from_draft_to_posted(books: BooksEnd) -> None:
    """Made, found by its mark, amended, posted, posted again, and never void after that."""
    contact = books.create_contact(Contact(email="wren@loom.example", name="Wren Dalby"))
    assert books.find_contacts(Contact(email="wren@loom.example")) == (contact,)
    made = books.create_draft(invoice(), contact_id=contact)
    assert (made.standing, made.number, made.net, made.tax) == (
        Standing.DRAFT, "", Decimal("18.71"), Decimal("3.74"),
    )  # fmt: skip
    assert books.find_invoices(made.invoice.mark) == (made,)
    one_line = invoice().model_copy(update={"lines": invoice().lines[:1]})
    assert books.replace_lines(made.id, one_line).gross == Decimal("18.50")
    posted = books.post(made.id)
    assert (posted.standing, posted.number) == (Standing.POSTED, "SI-00001")
    assert books.post(made.id) == posted
    with pytest.raises(Refused, match="is posted"):
        books.void(made.id)


def test_a_void_draft_stays_void(books: BooksEnd) -> None:
    """And cannot be posted."""
    made = books.create_draft(invoice(), contact_id="1")
    assert books.void(made.id).standing is Standing.VOID
    with pytest.raises(Refused, match="is void"):
        books.post(made.id)


@pytest.mark.parametrize(
    ("change", "said"),
    [({"account": "9999"}, "no account 9999"), ({"tax_code": "S99"}, "no tax code S99"),
     ({"unit_price": Decimal("1.00001")}, "four digits")],
)  # fmt: skip
def test_what_the_books_refuse_says_why(books: BooksEnd, change: dict[str, object], said: str) -> None:
    """In the books' own words."""
    planned = invoice()
    bad = planned.model_copy(update={"lines": (planned.lines[0].model_copy(update=change),)})
    with pytest.raises(Refused, match=said) as caught:
        books.create_draft(bad, contact_id="1")
    assert caught.value.why == "document"


def test_a_locked_period_is_refused(world: World, books: BooksEnd) -> None:
    """With the date up to which it is locked."""
    world.change_books(locked_until="2026-10-31")
    with pytest.raises(Refused, match="locked up to 2026-10-31"):
        books.create_draft(invoice(), contact_id="1")


def test_an_ended_session_is_opened_again(world: World, books: BooksEnd, stack: Stack) -> None:
    """Without anybody noticing."""
    books.reference()
    contents = {"reset": True, "company": {**_company(), "name": "The same, started anew"}}
    HTTP.put(f"{stack.erp}/{world.slug}/control/contents", json=contents).raise_for_status()
    assert books.check().company == "The same, started anew"


def _company() -> dict[str, object]:
    return {
        name: value for name, value in facts()["books"].items() if name not in {"accounts", "tax_codes", "contacts"}
    }


def test_a_page_that_leads_to_another_host_is_not_followed() -> None:
    """It would be sent our key."""
    shop = WebShop(Opening(address="http://127.0.0.1:9", credentials=GOOD["web-shop"], limits=LIMITS))
    answer = httpx.Response(200, request=httpx.Request("GET", "http://127.0.0.1:9/orders"))
    assert shop._onward(answer, "/orders?after=1") == "http://127.0.0.1:9/orders?after=1"
    with pytest.raises(Away, match="another host"):
        shop._onward(answer, "http://elsewhere.example/orders")


def test_the_errors_of_ends_are_one_small_tree() -> None:
    """Whoever catches EndError catches them all."""
    assert all(issubclass(kind, EndError) for kind in (Refused, Busy, Away, OutcomeUnknown))
