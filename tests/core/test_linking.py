"""Who is who: keys, certain matches, and how alike two are."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import Contact, Item
from inkwell_bridge.core.commerce import Customer, Product
from inkwell_bridge.core.linking import Known, LinkKind, Match, Rule, certain, scored
from inkwell_bridge.core.linking.known import known_contact, known_customer, known_item, known_product

PRODUCTS, CUSTOMERS = LinkKind.PRODUCTS, LinkKind.CUSTOMERS


def known(identity: str = "1", **fields: Any) -> Known:
    """One of either side."""
    return Known(id=identity, **fields)


@pytest.mark.parametrize(
    ("fields", "key", "expected"),
    [
        ({"code": " YRN-Mer4 "}, "code_key", "yrn-mer4"),
        ({"barcode": "5012345678900"}, "barcode_key", "05012345678900"),
        ({"barcode": "012345678905"}, "barcode_key", "00012345678905"),
        ({"barcode": "A-17"}, "barcode_key", "a-17"),
        ({"barcode": ""}, "barcode_key", ""),
        ({"email": " Ottilie@TwoMarsh.example "}, "email_key", "ottilie@twomarsh.example"),
        ({"tax_number": "GB 123 4567-89"}, "tax_number_key", "GB123456789"),
        ({"name": "Aoife O'Driscoll", "postcode": "d02 xy45"}, "place_key", "aoife o driscoll|D02XY45"),
        ({"name": "Zoë  Brûlé", "postcode": "1000"}, "place_key", "zoe brule|1000"),
        ({"name": "Nobody", "postcode": ""}, "place_key", ""),
        ({"name": "", "postcode": "1000"}, "place_key", ""),
    ],
)
def test_keys_are_what_people_mean(fields: dict[str, str], key: str, expected: str) -> None:
    """Case, spaces, accents and punctuation do not matter; a GTIN is one number however long it was written."""
    assert getattr(known(**fields), key) == expected


@pytest.mark.parametrize(
    ("found", "expected"),
    [
        ({Rule.EMAIL: ["a"]}, Match(id="a", rule=Rule.EMAIL)),
        ({Rule.EMAIL: ["a", "b"], Rule.TAX_NUMBER: ["b"]}, Match(id="b", rule=Rule.TAX_NUMBER)),
        ({Rule.EMAIL: [], Rule.PLACE: ["c"]}, Match(id="c", rule=Rule.PLACE)),
        ({Rule.TAX_NUMBER: ["a"], Rule.EMAIL: ["b"]}, Match(id="b", rule=Rule.EMAIL)),
        ({Rule.EMAIL: ["a", "b"]}, None),
        ({}, None),
    ],
)
def test_the_first_rule_that_finds_exactly_one_wins(found: dict[Rule, list[str]], expected: Match | None) -> None:
    """Two are a question for a person."""
    assert certain(CUSTOMERS, {rule: [known(one) for one in ids] for rule, ids in found.items()}) == expected


def test_what_is_not_active_any_more_is_no_match() -> None:
    """And does not make two of one."""
    found = [known("old", active=False), known("new")]
    assert certain(PRODUCTS, {Rule.CODE: found}) == Match(id="new", rule=Rule.CODE)
    assert certain(PRODUCTS, {Rule.CODE: found[:1]}) is None


def test_the_likelier_is_told_first() -> None:
    """Words in another order, a letter more: likelier than something else of the same maker."""
    wanted = known(code="MER4-HEA", name="Merino 4-ply skein, Heather")
    same = scored(PRODUCTS, wanted, known("2", code="YRN-MER4-HEA", name="Heather merino 4 ply skein"))
    other = scored(PRODUCTS, wanted, known("3", code="YRN-MER4-SLA", name="Slate merino 4 ply skein"))
    foreign = scored(PRODUCTS, wanted, known("4", code="BWL-ASH", name="Ash yarn bowl"))
    assert same.points > other.points > foreign.points
    assert same.points >= 90
    assert same.reason == "names alike by 100, codes alike by 80"


def test_the_same_key_weighs_more_than_any_likeness() -> None:
    """And is named in the reason."""
    wanted = known(name="Tamsin Holloway", email="t@loomside.example")
    score = scored(CUSTOMERS, wanted, known("2", name="Loomside Ltd", email="T@LOOMSIDE.example"))
    assert score.points >= 90
    assert score.reason.startswith("same e-mail, names alike by")


def test_points_stay_between_nothing_and_a_hundred() -> None:
    """Whatever is compared."""
    nothing = scored(CUSTOMERS, known(), known("2"))
    everything = scored(PRODUCTS, *(known(code="A", name="A", barcode="1", pack_of=Decimal(6)),) * 2)
    assert (nothing.points, everything.points) == (0, 100)


def test_a_product_and_an_item_are_told_in_the_same_words() -> None:
    """What one side calls number and title is code and name at the other."""
    moment = "2026-10-05T13:20:00+00:00"
    said = {"id": "31", "number": "YRN-6", "changed_at": moment, "title": "Six skeins", "barcode": "5012345678900",
            "pack_of": "6", "price": "100.00", "currency": "GBP", "price_includes_tax": True, "active": False,
            "components": [{"sku": "YRN", "quantity": "6", "share": "90.00"},
                           {"sku": "BAG", "quantity": "1"}]}  # fmt: skip
    product = known_product(Product.read(said))
    assert (product.id, product.code, product.name, product.pack_of) == ("31", "YRN-6", "Six skeins", Decimal(6))
    assert [(part.code, part.quantity, part.share) for part in product.parts] == [
        ("YRN", Decimal(6), Decimal("90.00")), ("BAG", Decimal(1), None),
    ]  # fmt: skip
    item = known_item("9", Item(code="YRN-6", name="Six skeins", barcode="05012345678900"))
    assert (item.id, item.code_key, item.barcode_key) == ("9", product.code_key, product.barcode_key)
    assert (product.active, item.active) == (False, True)


@pytest.mark.parametrize(("person", "expected"), [
    ({"name": "Wren Dalby", "company": "Dalby Looms"}, ("Dalby Looms", "")),
    ({"name": "Wren Dalby"}, ("Wren Dalby", "")),
    ({"name": "Wren Dalby", "billing": {"postcode": "LS1 4AP"}}, ("Wren Dalby", "LS1 4AP")),
    ({"name": "Wren Dalby", "delivery": {"postcode": "YO1 7HH"}}, ("Wren Dalby", "YO1 7HH")),
    ({"name": "Wren", "billing": {"postcode": "LS1 4AP"}, "delivery": {"postcode": "YO1 7HH"}}, ("Wren", "LS1 4AP")),
    (None, ("", "")),
])  # fmt: skip
def test_a_customer_and_a_contact_are_told_in_the_same_words(person: Any, expected: tuple[str, str]) -> None:
    """The company goes before the person, where the bill goes before where the goods go; erased, nothing is left."""
    moment = "2026-10-05T13:20:00+00:00"
    given = Customer.read({"id": "973", "number": "C-973", "changed_at": moment, "person": person})
    customer = known_customer(given)
    assert (customer.id, customer.code, customer.name, customer.postcode) == ("973", "C-973", *expected)
    contact = known_contact("3", "C-0003", Contact.read(person or {}))
    assert (contact.id, contact.name, contact.postcode) == ("3", *expected)
    assert contact.place_key == customer.place_key
