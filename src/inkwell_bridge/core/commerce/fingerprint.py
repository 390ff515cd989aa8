"""Has an order changed in a way that matters to the books?"""

from __future__ import annotations

import hashlib
from typing import Any

from inkwell_bridge.core.commerce.order import Order
from inkwell_bridge.core.values import canonical

FINGERPRINT_VERSION = 1

# A change of these alone is no change for the books: they name people, times of editing or links.
_COSMETIC = {"buyer", "changed_at", "link"}


def fingerprint(order: Order) -> str:
    """A digest of the accounting content, with the version of this recipe in front.

    Our own write-back, a touched time stamp or a corrected address leave it as it was.
    """
    content = {key: value for key, value in order.as_json().items() if key not in _COSMETIC}
    return f"{FINGERPRINT_VERSION}:{checksum(content)}"


def checksum(content: Any) -> str:
    """SHA-256 over the canonical JSON of ``content``, in hexadecimal."""
    return hashlib.sha256(canonical(content).encode()).hexdigest()
