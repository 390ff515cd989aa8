"""The published formats: schemas that are current, examples that read and write back to the same bytes."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from jsonschema import Draft202012Validator

from inkwell_bridge.core.books import Bill, Invoice, Journal
from inkwell_bridge.core.commerce import Order, SourceKind, books_digest
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.formats import VERSION, formats, schema_of
from inkwell_bridge.core.rulebook.page import page
from inkwell_bridge.launch import places
from tests.support.formats import published
from tests.support.orders import order, orders

FOLDER = places.root() / "docs" / "formats"


def example(name: str) -> dict[str, Any]:
    """A published example."""
    return dict(json.loads((FOLDER / "examples" / f"{name}.json").read_text("utf-8")))


@pytest.mark.parametrize("name", sorted(formats()))
def test_the_published_schema_is_current(name: str) -> None:
    """The file says what the program reads, and is itself a schema."""
    published = json.loads((FOLDER / f"{name}-{VERSION}.schema.json").read_text("utf-8"))
    Draft202012Validator.check_schema(published)
    assert published == schema_of(name)


@pytest.mark.parametrize("name", sorted(formats()))
def test_the_example_reads_and_writes_back_to_the_same_bytes(name: str) -> None:
    """It fits the schema, as it stands and in full."""
    text = (FOLDER / "examples" / f"{name}.json").read_text("utf-8")
    read = formats()[name].read(text, file=f"{name}.json")
    assert read.printed() == text
    validator = Draft202012Validator(schema_of(name))
    assert not list(validator.iter_errors(json.loads(text)))
    assert not list(validator.iter_errors(read.as_json()))
    assert formats()[name].read(read.written()).written() == read.written()


def test_the_example_of_a_notice_fits_its_schema() -> None:
    """And what is none does not."""
    schema = published("notice-1")
    schema.validate(example("notice"))
    assert not schema.is_valid({**example("notice"), "data": {"workspace": "demo", "subject": "nothing told"}})


@pytest.mark.parametrize("name", sorted(formats()))
def test_what_is_unknown_is_refused_with_its_place(name: str) -> None:
    """File, place, and that it is not wanted there."""
    with pytest.raises(DocumentInvalid) as caught:
        formats()[name].read({**example(name), "colour": "heather"}, file="some.json")
    assert (caught.value.file, caught.value.at) == ("some.json", "/colour")
    assert str(caught.value).startswith("some.json, /colour: ")


@pytest.mark.parametrize(
    ("name", "change", "at"),
    [
        ("sales-order", {"total": 61.0}, "/total"),
        ("sales-order", {"total": "61.001"}, ""),
        ("sales-order", {"currency": "pounds"}, ""),
        ("sales-order", {"placed_at": "2026-10-02T09:30:00"}, "/placed_at"),
        ("sales-order", {"country": "England"}, "/country"),
        ("sales-order", {"lines": [{"id": "1"}]}, "/lines/0/title"),
        ("sales-order", {"extras": [{"id": "1", "title": "x", "amount": "0.001", "kind": "tip"}]}, ""),
        ("sales-payout", {"total": "28.055"}, ""),
        ("sales-till-day", {"tenders": [{"tender": "shells", "amount": "1"}]}, "/tenders/0/tender"),
        ("books-journal", {"lines": []}, None),
        ("books-item", {"price": "NaN"}, "/price"),
    ],
)
def test_what_is_wrong_is_refused_at_birth(name: str, change: dict[str, Any], at: str | None) -> None:
    """Binary fractions, digits the currency has not, moments without offset, unknown words; named by their place."""
    data = {**example(name), **change}
    if at is None:
        assert formats()[name].read(data)
        return
    with pytest.raises(DocumentInvalid) as caught:
        formats()[name].read(data)
    assert caught.value.at == at


def test_a_journal_that_does_not_balance_is_never_born() -> None:
    """With the difference; so is a posting whose two amounts disagree about their side."""
    lines = example("books-journal")["lines"]
    with pytest.raises(DocumentInvalid, match=r"a difference of 0\.96 GBP"):
        Journal.read({**example("books-journal"), "lines": [*lines[:1], *lines[3:], {**lines[1], "base": "1.92",
                                                                                    "amount": "1.92"}]})  # fmt: skip
    with pytest.raises(DocumentInvalid, match="on one side"):
        Journal.read({**example("books-journal"), "lines": [{**lines[0], "amount": "-28.05"}, *lines[1:]]})


@pytest.mark.parametrize("shape", [Invoice, Bill])
def test_what_goes_into_the_ledger_names_account_and_tax_code(shape: type[Invoice] | type[Bill]) -> None:
    """Each line; a sales order need not."""
    data = example("books-invoice" if shape is Invoice else "books-bill")
    data["lines"][0]["account"] = ""
    with pytest.raises(DocumentInvalid, match="line 1 lacks one"):
        shape.read(data)


def test_foreign_money_is_checked_in_its_own_currency() -> None:
    """An order in pounds, settled in yen, which have no pence."""
    settled = {"currency": "JPY", "amount": "11893", "rate": "194.97"}
    assert order(settlement=settled).settlement is not None
    with pytest.raises(DocumentInvalid):
        order(settlement={**settled, "amount": "11893.50"})


@given(orders())
def test_any_order_reads_back_from_its_own_words(made: Order) -> None:
    """In currencies of 0, 2 and 3 digits; its books_digest too."""
    again = Order.read(made.written())
    assert again == made
    assert again.written() == made.written()
    assert books_digest(again) == books_digest(made)


@pytest.mark.parametrize("change", [{"tags": ("carried",)}, {"link": "https://elsewhere.example"}, {"notes": ()}])
def test_our_own_writing_back_is_no_change(change: dict[str, Any]) -> None:
    """A tag, a link, a note leave the digest as it was; an order that is called off does not."""
    before = order()
    assert books_digest(before.model_copy(update=change)) == books_digest(before)
    assert books_digest(order(status="cancelled")) != books_digest(before)


def test_a_customers_person_is_what_counts() -> None:
    """An order's buyer may be corrected; a customer who moved has changed."""
    shape = SourceKind.CUSTOMERS.shape
    before = shape.read(example("sales-customer"))
    moved = shape.read({**example("sales-customer"), "person": {"email": "a@b.example", "name": "Aoife"}})
    assert books_digest(moved) != books_digest(before)
    assert before.without_people().as_json()["person"] is None


def test_the_rulebooks_page_is_made_from_its_schema() -> None:
    """``setup/formats.sh`` writes it; every key of the schema stands on it."""
    published = (places.root() / "docs" / "reference" / "rulebook.md").read_text("utf-8")
    assert published == page()
    assert "`tax_codes.exceptions.treatment`" in published
