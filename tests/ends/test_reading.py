"""Reading what comes from outside: strictly and exactly."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.ends.reading import Unreadable, read_json, read_xml

# What no text may hold is replaced, which tests of its own see to.
LETTERS = st.characters(exclude_categories=["Cs"], exclude_characters="\x00")
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(LETTERS),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(LETTERS, max_size=5), inner, max_size=4),
    max_leaves=20,
)


@given(JSON)
def test_what_json_says_is_read(value: Any) -> None:
    """Whatever it is."""
    assert read_json(json.dumps(value).encode()) == value


def test_what_no_text_may_hold_is_replaced() -> None:
    """In values and in names."""
    assert read_json(b'{"a\\u0000": ["b\\u0000c"]}') == {"a\ufffd": ["b\ufffdc"]}


@given(st.decimals(allow_nan=False, allow_infinity=False, places=3, min_value=-(10**12), max_value=10**12))
def test_numbers_are_exact(number: Decimal) -> None:
    """Never a binary fraction on the way."""
    assert read_json(f"[{number}]".encode())[0] == number


@given(st.binary(max_size=200))
def test_whatever_comes_it_is_read_or_unreadable(body: bytes) -> None:
    """Never another error, for JSON and for XML."""
    for reads in (read_json, read_xml):
        try:
            reads(body)
        except Unreadable:
            continue


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (b"{", "not JSON"),
        (b'{"a": 1, "a": 1}', "the key 'a' twice"),
        (b'{"b": {"a": 1, "a": 2}}', "the key 'a' twice"),
        (b"[Infinity]", "Infinity, which is no number"),
        (b"\xff\xfe", "not UTF-8"),
        (b"[" * 100_000, "too deep"),
        (b"9" * 5000, "not JSON"),
    ],
)
def test_json_that_is_none_says_why(body: bytes, said: str) -> None:
    """In words that go into an error as they are."""
    with pytest.raises(Unreadable, match=said):
        read_json(body)


def test_an_empty_body_says_nothing() -> None:
    """As with status 204."""
    assert read_json(b"") is None


def test_a_document_type_is_refused_before_anything_grows() -> None:
    """A thousand million laughs, and not one of them told."""
    laughs = "".join(f'<!ENTITY a{n} "{f"&a{n - 1};" * 10 if n else "ha"}">' for n in range(10))
    with pytest.raises(Unreadable):
        read_xml(f"<!DOCTYPE x [{laughs}]><x>&a9;</x>".encode())
