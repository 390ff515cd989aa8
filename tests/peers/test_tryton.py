"""What is Tryton's own: its warnings, its numbering, its arithmetic, its payments."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import BooksDocument, BooksRecord, Contact, Role, Standing, TradeDocument
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.launch.stack import Stack
from tests.support.ends import document, line
from tests.support.peers import PEER_BENCHES, admin
from tests.support.world import World, new_world

BENCH = PEER_BENCHES["tryton"]
MARK = "INK:storefront:{}:invoice:1"


@pytest.fixture(scope="module")
def world(stack: Stack) -> World:
    """One database for this file."""
    return new_world(stack, "no token", set_up=False)


@pytest.fixture(scope="module")
def books(world: World) -> BooksEnd:
    """Tryton."""
    return BENCH.books(world)


@pytest.fixture(scope="module")
def contact(books: BooksEnd) -> str:
    """A buyer abroad, with a tax number that Tryton checks."""
    return books.create_contact(
        Contact.read({"email": "einkauf@wollgarten.example", "name": "Jonas Weber", "company": "Wollgarten GmbH",
                      "tax_number": "DE136695976",
                      "billing": {"lines": ["Am Wall 1"], "town": "Bremen", "postcode": "28195", "country": "DE"},
                      "delivery": {"lines": ["Lager 2"], "town": "Bremen", "postcode": "28197", "country": "DE"}}),
        key="",
    )  # fmt: skip


def posted(books: BooksEnd, planned: BooksDocument, contact: str) -> BooksRecord:
    """Made and posted."""
    return books.post(books.create(planned, contact_id=contact, key=""))


def invoice(number: int, *lines: dict[str, Any], **fields: Any) -> BooksDocument:
    """An invoice of these lines."""
    return document(
        BENCH, Role.INVOICE, external_reference=MARK.format(number), lines=list(lines) or [line(BENCH)], **fields
    )


def today() -> datetime.date:
    """As Tryton has it."""
    return datetime.datetime.now(datetime.UTC).date()


def test_a_contact_is_a_party_with_two_addresses_and_a_checked_number(world: World, contact: str) -> None:
    """The company is the party, the person stands on its address; a number with wrong digits is refused."""
    (party,) = admin(world).search("party.party", [["id", "=", int(contact)]],
                                   ["name", "addresses.street", "addresses.invoice", "addresses.delivery",
                                    "addresses.party_name", "identifiers.type", "identifiers.code"])  # fmt: skip
    assert party["name"] == "Wollgarten GmbH"
    assert [(one["street"], one["party_name"]) for one in sorted(party["addresses."], key=lambda one: one["id"])] == [
        ("Am Wall 1", "Jonas Weber"), ("Lager 2", "Jonas Weber"),
    ]  # fmt: skip
    assert [(one["type"], one["code"]) for one in party["identifiers."]] == [("eu_vat", "DE136695976")]
    with pytest.raises(Refused, match="DE136695977"):
        BENCH.books(world).create_contact(Contact(email="x@loom.example", name="X", tax_number="DE136695977"), key="")


def test_warnings_that_only_ask_are_acknowledged(books: BooksEnd, contact: str) -> None:
    """A date still to come; a term that ran out before it was posted."""
    last_month = today().replace(day=1) - datetime.timedelta(days=40)
    late = posted(books, invoice(1, date=last_month.isoformat(), terms="CASH"), contact)
    assert late.standing is Standing.POSTED
    to_come = posted(books, invoice(2, date=f"{today().year}-12-31"), contact)
    assert (to_come.standing, to_come.document.date) == (Standing.POSTED, datetime.date(today().year, 12, 31))
    with pytest.raises(Refused, match="you must set an invoice date after"):
        posted(books, invoice(3, date=last_month.isoformat()), contact)


@pytest.fixture(scope="module")
def second(stack: Stack) -> World:
    """Another database, whose numbers begin anew."""
    return new_world(stack, "no token", set_up=False)


def test_arithmetic_worked_out_by_hand(second: World) -> None:
    """Prices of four digits, a fraction of a kilogram, a discount as a line of its own: taxed apart, by line.

    3 x 2.7733 = 8.3199, so 8.32, tax 1.66; 0.75 kg x 53.33 = 39.9975, so 40.00, tax 8.00; the discount of
    10.00 takes back 2.00: net 38.32, tax 7.66.
    """
    books = BENCH.books(second)
    contact = books.create_contact(Contact(email="wren@loom.example", name="Wren Dalby"), key="")
    parts = [
        line(BENCH, quantity="3", unit_price="2.7733", net="8.32", tax="1.66"),
        line(BENCH, line_reference="2", quantity="0.75", unit="KGM", unit_price="53.33", net="40.00", tax="8.00"),
        line(BENCH, line_reference="3", kind="discount", quantity="1", unit_price="-10.00", net="-10.00", tax="-2.00"),
    ]
    held = posted(books, invoice(1, *parts), contact)
    assert (held.net, held.tax, held.gross) == (Decimal("38.32"), Decimal("7.66"), Decimal("45.98"))
    assert isinstance(held.document, TradeDocument)
    assert [(one.net, one.tax) for one in held.document.lines] == [
        (Decimal("8.32"), Decimal("1.66")), (Decimal("40.00"), Decimal("8.00")), (Decimal("-10.00"), Decimal("-2.00")),
    ]  # fmt: skip
    credit = posted(
        books,
        document(
            BENCH,
            Role.CREDIT_NOTE,
            external_reference="INK:x:1:credit note:1",
            credits=held.document.external_reference,
            reason="one came back",
            lines=[line(BENCH)],
        ),
        contact,
    )
    assert (held.number, credit.number, credit.gross) == ("TI-00001", "TC-00001", Decimal("12.00"))


def test_a_mark_is_not_unique_there_so_all_are_found(second: World) -> None:
    """Two racing clients made two: both are found, the older first, and one can be thrown away."""
    books = BENCH.books(second)
    contact = books.create_contact(Contact(email="race@loom.example", name="Race"), key="")
    first, other = (books.create(invoice(9), contact_id=contact, key="") for _ in range(2))
    assert books.find(Role.INVOICE, [MARK.format(9)]) == (first, other)
    books.void(other)
    assert [held.standing for held in books.find(Role.INVOICE, [MARK.format(9)])] == [Standing.DRAFT, Standing.VOID]


def test_payments_settle_in_part_and_in_whole(second: World) -> None:
    """In part it stays open; with the rest it is reconciled, and paid once it was processed."""
    books = BENCH.books(second)
    contact = books.create_contact(Contact(email="payer@loom.example", name="Payer"), key="")
    sold = posted(books, invoice(20, date="2026-10-20"), contact)
    open_amounts = []
    for number, amount in ((1, "5.00"), (2, "7.00")):
        paid = document(
            BENCH,
            Role.PAYMENT,
            external_reference=f"INK:x:{number}:payment:1",
            date="2026-10-21",
            amount=amount,
            applied=[{"external_reference": sold.document.external_reference, "amount": amount}],
        )
        held = posted(books, paid, contact)
        assert held.document == paid
        (row,) = admin(second).search("account.invoice", [["id", "=", int(sold.id)]], ["amount_to_pay", "reconciled"])
        open_amounts.append((row["amount_to_pay"], bool(row["reconciled"])))
    assert open_amounts == [(Decimal("7.00"), False), (Decimal("0"), True)]
    (row,) = admin(second).search("account.invoice", [["id", "=", int(sold.id)]], ["state"])
    assert row["state"] == "paid"
    assert books.read(Role.INVOICE, sold.id).standing is Standing.POSTED
    # Cut off between posting and settling: posted again, it is settled, once.
    other = posted(books, invoice(21, date="2026-10-20"), contact)
    paid = document(
        BENCH,
        Role.PAYMENT,
        external_reference="INK:x:4:payment:1",
        date="2026-10-21",
        applied=[{"external_reference": other.document.external_reference, "amount": "12.00"}],
    )
    draft = books.create(paid, contact_id=contact, key="")
    admin(second).change("model.account.move.post", [int(draft.id)])
    for _ in range(2):
        assert books.post(draft).standing is Standing.POSTED
    (row,) = admin(second).search("account.invoice", [["id", "=", int(other.id)]], ["state", "payment_lines"])
    assert (row["state"], len(row["payment_lines"])) == ("paid", 1)
    with pytest.raises(Refused, match="nothing posted under INK:none"):
        posted(books, document(BENCH, Role.PAYMENT, external_reference="INK:x:3:payment:1",
                               applied=[{"external_reference": "INK:none", "amount": "1.00"}]), contact)  # fmt: skip


def test_a_journal_in_two_currencies_comes_back_as_it_went(second: World) -> None:
    """With the rate it was made at."""
    planned = document(BENCH, Role.JOURNAL, external_reference="INK:x:1:journal:1", order_number="", lines=[
        {"account": "1200", "base": "8.70", "currency": "EUR", "amount": "10.00", "rate": "0.8697", "text": "a | b"},
        {"account": "1250", "base": "-8.70", "currency": "GBP", "amount": "-8.70", "line_reference": "7"},
    ])  # fmt: skip
    held = posted(BENCH.books(second), planned, "")
    assert held.document == planned


def test_an_account_is_told_line_by_line(second: World) -> None:
    """What is posted on its day, and what it comes to by then; a draft is no part of it."""
    books = BENCH.books(second)
    first, last = datetime.date(2026, 10, 5), datetime.date(2026, 10, 31)
    before = books.account_balance("1250", last)
    known = {one.id for one in books.account_entries("1250", first, last).entries}
    made = posted(books, document(BENCH, Role.JOURNAL, external_reference="INK:x:9:journal:1", order_number=""), "")
    books.create(document(BENCH, Role.JOURNAL, external_reference="INK:x:8:journal:1", order_number=""),
                 contact_id="", key="")  # fmt: skip
    (new,) = [one for one in books.account_entries("1250", first, last).entries if one.id not in known]
    assert (new.id, new.external_reference, new.amount) == (made.id, "INK:x:9:journal:1", Decimal("-9.50"))
    assert (new.date, new.number) == (datetime.date(2026, 10, 5), made.number)
    assert books.account_balance("1250", last) == before - Decimal("9.50")
    assert books.account_balance("1250", datetime.date(2025, 1, 1)) == 0


def test_a_sale_goes_on_when_it_is_posted(second: World) -> None:
    """Quoted, confirmed and processed; it makes neither invoice nor dispatch by itself."""
    books = BENCH.books(second)
    contact = books.create_contact(Contact(email="sale@loom.example", name="Sale"), key="")
    parts = [line(BENCH, item="YRN-MER4-HEA", account="")]
    sold = posted(books, document(BENCH, Role.SALES_ORDER, warehouse="MILL", lines=parts), contact)
    fields = ["state", "invoices", "shipments", "warehouse.code"]
    (sale,) = admin(second).search("sale.sale", [["id", "=", int(sold.id)]], fields)
    assert (sale["state"] in {"processing", "done"}, sale["invoices"], sale["shipments"]) == (True, [], [])
    assert (sold.standing, sold.gross, sale["warehouse."]["code"]) == (Standing.POSTED, Decimal("12.00"), "MILL")


def test_an_account_of_another_type_is_refused_in_trytons_words(second: World) -> None:
    """Only income may stand on a sales invoice, which is why only that counts as income."""
    books = BENCH.books(second)
    contact = books.create_contact(Contact(email="type@loom.example", name="Type"), key="")
    with pytest.raises(Refused, match="not valid according to its domain") as caught:
        books.create(invoice(30, line(BENCH, account="5000")), contact_id=contact, key="")
    assert caught.value.why == "document"
    types = {account.code: account.type for account in books.master_data().accounts}
    assert (types["4000"], types["5000"], types["1200"], types["8200"]) == ("income", "expense", "bank", "income")
