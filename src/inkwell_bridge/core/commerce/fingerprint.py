"""Has a source document changed, and does it matter to the books? Two digests answer the two questions."""

from __future__ import annotations

import hashlib
from typing import Any

from inkwell_bridge.core.commerce.order import Order
from inkwell_bridge.core.commerce.source import SourceDocument
from inkwell_bridge.core.values import canonical

FINGERPRINT_VERSION = 3

# A change of these alone is no change for the books: they name people, times of editing, links, how far the sales side
# has come with it, or what we ourselves write back.
_COSMETIC = frozenset({"changed_at", "link", "tags", "status"})


def books_digest(document: SourceDocument) -> str:
    """A digest of what matters to the books, with the version of this recipe in front.

    Our own write-back, a touched time stamp, a corrected address or the step from paid to completed leave it as it was;
    that an order is called off does not. Of a customer the person is the content. What was never said is left out, so
    that a field which a later version of the shapes adds changes nothing.
    """
    # Of an order the buyer may move house; of a customer that is the very thing the books are to hear.
    left_out = _COSMETIC if _is_about_people(document) else _COSMETIC | document.PERSONAL
    content = document.model_dump(mode="json", exclude=set(left_out), exclude_defaults=True)
    # The status is cosmetic but for this one: what was called off is to come off the books.
    if isinstance(document, Order) and document.cancelled:
        content["cancelled"] = True
    return f"{FINGERPRINT_VERSION}:{checksum(content)}"


def content_digest(document: SourceDocument) -> str:
    """A digest of all that a rule can read, people and tags among it; only when it was last touched is left out."""
    content = document.model_dump(mode="json", exclude={"changed_at"}, exclude_defaults=True)
    return f"{FINGERPRINT_VERSION}:{checksum(content)}"


def _is_about_people(document: SourceDocument) -> bool:
    return "person" in document.PERSONAL


def checksum(content: Any) -> str:
    """SHA-256 over the canonical JSON of ``content``, in hexadecimal."""
    return hashlib.sha256(canonical(content).encode()).hexdigest()
