"""Values: frozen, closed, exact; and what a change of an order is."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
from decimal import Decimal
from typing import Any

import pytest
from pydantic import ValidationError

import inkwell_bridge.core
from inkwell_bridge.core.commerce import Order, books_digest, checksum, content_digest
from inkwell_bridge.core.errors import DocumentInvalid
from tests.support.orders import line, master_data, order


def modules() -> list[str]:
    """Every module of the core."""
    return [found.name for found in pkgutil.walk_packages(inkwell_bridge.core.__path__, "inkwell_bridge.core.")]


@pytest.mark.parametrize("name", modules())
def test_examples_in_the_docs_are_true(name: str) -> None:
    """Each example in a docstring runs and gives what it says."""
    assert doctest.testmod(importlib.import_module(name)).failed == 0


def test_values_cannot_be_changed() -> None:
    """What was planned stays as it was planned."""
    with pytest.raises(ValidationError, match="frozen"):
        order().total = 1  # type: ignore[misc, assignment]


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"total": 22.45}, "/total"),
        ({"total": "22.455"}, ""),
        ({"total": "Infinity"}, "/total"),
        ({"currency": "pounds"}, ""),
        ({"placed_at": "2026-10-05T13:20:00"}, "/placed_at"),
        ({"surprise": 1}, "/surprise"),
        ({"lines": [line(amount=18.5)]}, "/lines/0/amount"),
        ({"number": ""}, "/number"),
        # Short as it comes, hundreds of millions of digits once it is written out.
        ({"total": "0E-400000000"}, "/total"),
        ({"total": "1E+400000000"}, "/total"),
        # At the ends of the calendar there is no day before, or after, in some time zones.
        ({"placed_at": "0001-01-01T00:00:00Z"}, "/placed_at"),
        ({"placed_at": "9999-12-31T23:59:59Z"}, "/placed_at"),
        ({"placed_at": "1899-12-31T23:59:59Z"}, "/placed_at"),
    ],
)
def test_what_is_wrong_is_refused_at_birth(change: dict[str, Any], at: str) -> None:
    """Floats, digits too many, naive times, unknown fields: named by a JSON Pointer."""
    with pytest.raises(DocumentInvalid) as caught:
        order(**change)
    assert caught.value.at == at


def test_reading_and_writing_back_gives_the_same_bytes() -> None:
    """So that a checksum means something."""
    text = order().written()
    assert Order.read(text).written() == text


def test_a_cosmetic_change_is_no_change() -> None:
    """A touched time, another spelling of the buyer, another link."""
    moved = order(changed_at="2026-12-01T00:00:00Z", buyer=None, link="https://shop.marrowby.example/x")
    assert books_digest(moved) == books_digest(order())


@pytest.mark.parametrize(
    "change", [{"tags": ["gift"]}, {"status": "completed"}, {"buyer": None}, {"link": "https://shop.example/x"}]
)
def test_all_that_a_rule_can_read_is_in_the_other_digest(change: dict[str, Any]) -> None:
    """A tag taken away, an e-mail added: whatever is not posted yet is planned anew."""
    assert content_digest(order(**change)) != content_digest(order())
    assert content_digest(order(changed_at="2026-12-01T00:00:00Z")) == content_digest(order())


@pytest.mark.parametrize("change", [{"status": "cancelled"}, {"lines": [line(sku="X")]}, {"country": "IE"}])
def test_a_change_that_matters_shows(change: dict[str, Any]) -> None:
    """Status, lines, country: the books may care."""
    assert books_digest(order(**change)) != books_digest(order())


def test_the_fingerprint_tells_its_recipe() -> None:
    """A later recipe must not make old orders look changed."""
    assert books_digest(order()).startswith("3:")
    assert checksum({"b": 1, "a": 2}) == checksum({"a": 2, "b": 1})


def test_a_copy_works_out_anew_what_came_of_the_old_fields() -> None:
    """A rate that was looked up before the copy was made is not the copy's."""
    before = master_data()
    assert before.rate("S20") == 20
    dearer = tuple(code.model_copy(update={"rate_percent": Decimal(21)}) for code in before.tax_codes)
    assert (before.model_copy(update={"tax_codes": dearer}).rate("S20"), before.rate("S20")) == (21, 20)
