"""Reading a page of the books' long lists where an end hands them out as entries, the id to go on from, and a total."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from inkwell_bridge.core.books import Contact, Directory, Item
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.shapes import DirectoryPage, Entered

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
        raise Away(f"{end}'s list of {kind} lacks or misstates {error}") from error
