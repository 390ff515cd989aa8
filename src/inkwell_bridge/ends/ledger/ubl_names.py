"""The vocabulary of UBL 2.1 (OASIS) that is used here, and how to make and read its elements."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from lxml import etree

from inkwell_bridge.ends.reading import Unreadable

_OASIS = "urn:oasis:names:specification:ubl:schema:xsd:"
CBC_NAMESPACE = f"{_OASIS}CommonBasicComponents-2"
CAC_NAMESPACE = f"{_OASIS}CommonAggregateComponents-2"
NAMESPACES = {"cbc": CBC_NAMESPACE, "cac": CAC_NAMESPACE}

# XML 1.0 has no place for these characters.
_NO_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def root(name: str, *parts: etree._Element) -> etree._Element:
    """The root element of a kind of document, in the namespace of its own."""
    namespace = f"{_OASIS}{name}-2"
    return _element(f"{{{namespace}}}{name}", parts, {None: namespace, **NAMESPACES})


def basic(name: str, text: str, **attributes: str) -> etree._Element:
    """A basic component: a value."""
    element = etree.Element(f"{{{CBC_NAMESPACE}}}{name}", attributes, NAMESPACES)
    element.text = _NO_XML.sub(" ", text)
    return element


def aggregate(name: str, *parts: etree._Element | None) -> etree._Element:
    """An aggregate component, of those parts that are there."""
    return _element(f"{{{CAC_NAMESPACE}}}{name}", parts, NAMESPACES)


def _element(tag: str, parts: Iterable[etree._Element | None], prefixes: Mapping[Any, str]) -> etree._Element:
    element = etree.Element(tag, {}, prefixes)
    element.extend(part for part in parts if part is not None)
    return element


def optional(name: str, text: str) -> list[etree._Element]:
    """A basic component, where there is something to say."""
    return [basic(name, text)] if text else []


def text_at(element: etree._Element, path: str, default: str | None = None) -> str:
    """The text at a path such as ``cac:Item/cbc:Name``.

    Raises:
        Unreadable: where there is none, and no default either.
    """
    found = element.find(path, NAMESPACES)
    if found is None:
        if default is None:
            raise Unreadable(f"UBL without {path}")
        return default
    return found.text or ""


def all_at(element: etree._Element, path: str) -> Iterator[etree._Element]:
    """All elements at a path."""
    yield from element.iterfind(path, NAMESPACES)
