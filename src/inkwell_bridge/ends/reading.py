"""Reading what comes from outside: strictly, exactly, and never more than was asked for."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from lxml import etree

from inkwell_bridge.core.text import fit

_UNFIT_ESCAPE = re.compile(rb"\\u(?:0000|[dD][89a-fA-F])")


class Unreadable(ValueError):
    """The answer is not what the protocol says it is; the text tells how."""


def read_json(body: bytes) -> Any:
    """JSON with exact numbers; nothing at all where the body is empty. What no text may hold is replaced.

    Raises:
        Unreadable: for text that is no JSON, no UTF-8, too deep, or says one thing twice.
    """
    found = read_source_json(body)
    # Only an escape can bring it, and hardly any answer has one.
    return fit(found) if _UNFIT_ESCAPE.search(body) else found


def read_source_json(body: bytes) -> Any:
    """The same with every character as it came: a sale that holds what cannot be kept is held by itself, and says so.

    Raises:
        Unreadable: see ``read_json``.
    """
    if not body:
        return None
    try:
        text = body.decode("utf-8-sig")
        return json.loads(text, parse_float=Decimal, parse_constant=_no_number, object_pairs_hook=_each_key_once)
    except UnicodeDecodeError as error:
        raise Unreadable("text that is not UTF-8") from error
    except RecursionError as error:
        raise Unreadable("JSON that is nested too deep") from error
    except Unreadable:
        raise
    except ValueError as error:
        raise Unreadable("something that is not JSON") from error


def _no_number(name: str) -> Any:
    raise Unreadable(f"{name}, which is no number")


def _each_key_once(pairs: Sequence[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        # Once through: counting each name among all would take an hour for an object of a million keys.
        twice, _ = next((name, number) for name, number in Counter(name for name, _ in pairs).items() if number > 1)
        raise Unreadable(f"the key {twice[:80]!r} twice in one object")
    return found


def read_xml(body: bytes) -> etree._Element:
    """XML without a document type, so that no entity can grow or reach out.

    Raises:
        Unreadable: for text that is no well-formed XML, or brings a document type.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(body, parser)
    except etree.XMLSyntaxError as error:
        raise Unreadable(f"something that is not XML ({str(error)[:120]})") from error
    if root.getroottree().docinfo.internalDTD is not None:
        raise Unreadable("XML with a document type, which is not read")
    return root
