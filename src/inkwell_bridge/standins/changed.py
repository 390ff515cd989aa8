"""Lists of what changed at or after a moment, as stand-ins of books hand them out."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.standins.store import Store

PAGE = 100
# Before every moment, and behind the empty sort of what never changed: drafts.
_BEGINNING = "0"


def changed_since(store: Store, world: str, kind: str, *, since: str, onward: str) -> dict[str, Any]:
    """A page, oldest change first, and where to go ``onward`` from; documents are sorted by their ``changed``."""
    moment, _, number = onward.rpartition("|")
    after = (moment, int(number)) if onward else (since or _BEGINNING, 0)
    found = store.page(world, kind, after=after, limit=PAGE + 1)
    last = found[PAGE - 1] if len(found) > PAGE else None
    return {"entries": found[:PAGE], "onward": f"{last['changed']}|{last['id']}" if last else None}
