"""Reading a page of what books list where they hand it out as entries and the id to go on from."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from inkwell_bridge.core.books import Brief, Contact, Directory, Item, Role
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.shapes import BriefPage, DirectoryPage, Entered

ENTRIES = 500


def page_of(
    answer: Any, reads: Callable[[Mapping[str, Any]], Item | Contact], *, end: str, kind: Directory
) -> DirectoryPage:
    """The page that ``answer`` holds, each entry read by ``reads``.

    Raises:
        Away: the answer is no such page.
    """
    try:
        entries = tuple(
            Entered(id=str(one["id"]), code=one.get("code") or "", what=reads(one)) for one in answer["entries"]
        )
        onward = answer["onward"]
        return DirectoryPage(entries=entries, next=str(onward) if onward else None, total=answer["total"])
    except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
        raise Misstated(f"{end}'s list of {kind} lacks or misstates {error}") from error


def briefs_of(
    answer: Any, reads: Callable[[Mapping[str, Any]], Mapping[str, Any]], *, end: str, role: Role
) -> BriefPage:
    """The documents that ``answer`` holds, each in a line, said by ``reads`` in the words of ``Brief``.

    Raises:
        Away: the answer is no such page.
    """
    try:
        onward = answer["onward"]
        documents = tuple(Brief.read(reads(one)) for one in answer["entries"])
    except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
        raise Misstated(f"{end}'s list of {role}s lacks or misstates {error}") from error
    return BriefPage(documents=documents, next=str(onward) if onward else None)
