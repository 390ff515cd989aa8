"""Who is who: keys, certain matches, and how alike two are."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.linking import Known, LinkKind, Match, Rule, certain, scored

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
