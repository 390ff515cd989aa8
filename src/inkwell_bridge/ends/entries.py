"""Reading what an end hands out: what is understood, and what is wrong with what is not; nothing is lost."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid, InkwellError
from inkwell_bridge.core.planner import is_ours
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.shapes import Fetched, Page

Translate = Callable[[Mapping[str, Any]], dict[str, Any]]


def fetched(
    kind: SourceKind, said: Any, translate: Translate, *, id_field: str, number_field: str, end: str,
    parent_field: str = "",
) -> Fetched:  # fmt: skip
    """An entry of a list; one that cannot be understood comes back with what is wrong with it."""
    if not isinstance(said, Mapping):
        return Fetched(id="", number="", changed_at=None, document=None, problem="an entry that is no JSON object")
    identity = str(said.get(id_field, ""))
    number = str(said.get(number_field, identity))
    try:
        document: Any = kind.shape.read(translate(said))
    except DocumentInvalid as error:
        problem = str(error)
    except (InkwellError, LookupError, TypeError, ValueError, AttributeError, ArithmeticError, RecursionError) as error:
        problem = f"the answer of {end} lacks or misstates {error}"
    else:
        return Fetched(id=document.id, number=document.number, changed_at=document.changed_at, document=document)
    parent = str(said.get(parent_field) or "")
    return Fetched(id=identity, number=number, changed_at=None, document=None, problem=problem, parent_id=parent)


def news_of_books(kind: SourceKind, answer: Any, translate: Translate, *, end: str, ours: bool = False) -> Page:
    """A page of what books tell of: its ``entries``, and where to go on from as ``onward``.

    What was posted from here bears our mark as its ``reference`` and is no news to anybody, unless ``ours`` are asked
    for as well. One entry that cannot be
    understood stops no other.

    Raises:
        Misstated: the answer is no such page.
    """
    try:
        entries, onward = list(answer["entries"]), answer["onward"]
    except (KeyError, TypeError) as error:
        raise Misstated(f"{end}'s list of {kind} lacks or misstates {error}") from error
    documents = [
        fetched(kind, entry, translate, id_field="id", number_field="number", end=end)
        for entry in entries
        if ours or not (isinstance(entry, Mapping) and is_ours(str(entry.get("reference") or "")))
    ]
    return Page(documents=tuple(documents), next=str(onward) if onward else None)
