"""Has a source document changed in a way that matters to the books?"""

from __future__ import annotations

import hashlib
from typing import Any

from inkwell_bridge.core.commerce.source import SourceDocument
from inkwell_bridge.core.values import canonical

FINGERPRINT_VERSION = 2

# A change of these alone is no change for the books: they name people, times of editing, links, or what we
# ourselves write back.
_COSMETIC = frozenset({"changed_at", "link", "tags"})


def fingerprint(document: SourceDocument) -> str:
    """A digest of the accounting content, with the version of this recipe in front.

    Our own write-back, a touched time stamp or a corrected address of an order leave it as it was. Of a
    customer the person is the content. What was never said is left out, so that a field which a later
    version of the shapes adds changes nothing.
    """
    left_out = _COSMETIC if _is_about_people(document) else _COSMETIC | document.PERSONAL
    content = document.model_dump(mode="json", exclude=set(left_out), exclude_defaults=True)
    return f"{FINGERPRINT_VERSION}:{checksum(content)}"


def _is_about_people(document: SourceDocument) -> bool:
    return "person" in document.PERSONAL


def checksum(content: Any) -> str:
    """SHA-256 over the canonical JSON of ``content``, in hexadecimal."""
    return hashlib.sha256(canonical(content).encode()).hexdigest()
