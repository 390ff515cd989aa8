"""What the marketplace calls out: a line of JSON, signed in a way of its own.

``fair-moment`` is when it was sent, in seconds; ``fair-signature`` the HMAC-SHA-256, in hexadecimal, of that moment, a
dot, and the body as it stands, with the secret as its key.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import time
import uuid
from typing import Any


def signed(secret: str, kind: str, entry: dict[str, Any]) -> tuple[dict[str, str], str]:
    """A call that something of the seller moved."""
    moment = str(int(time.time()))
    body = json.dumps({"call": uuid.uuid4().hex, "moved": kind, "number": entry[kind], "at": entry["moved"]})
    signature = hmac.new(secret.encode(), f"{moment}.{body}".encode(), hashlib.sha256).hexdigest()
    return {"content-type": "application/json", "fair-moment": moment, "fair-signature": signature}, body
