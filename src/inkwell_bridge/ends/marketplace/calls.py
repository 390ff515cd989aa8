"""Calls of the marketplace, under its own signature.

``fair-signature`` is the HMAC-SHA-256, in hexadecimal, of what ``fair-moment`` says, a dot and the body as it stands.
"""

from __future__ import annotations

import hashlib
import hmac
import re
import time
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.reading import Unreadable, read_json
from inkwell_bridge.ends.shapes import Event, SignedCall

# As Standard Webhooks has it: what is older may be somebody who sends again what they overheard.
LONGEST_AGO_SECONDS = 300
_SECONDS = re.compile(r"[0-9]{1,12}")
_KINDS = {"sale": SourceKind.ORDERS, "handback": SourceKind.REFUNDS, "parcel": SourceKind.DISPATCHES,
          "settlement": SourceKind.PAYOUTS}  # fmt: skip


def event_of(call: SignedCall, *, secrets: Sequence[str], end: str) -> Event:
    """What a call told, signed with any of these secrets.

    Raises:
        Refused: with ``why`` credentials where the signature is not right or the call is old, else document.
    """
    headers = {name.lower(): value for name, value in call.headers.items()}
    moment, signature = headers.get("fair-moment", ""), headers.get("fair-signature", "")
    if not any(hmac.compare_digest(signature.encode(), _signature(one, moment, call.body)) for one in secrets if one):
        raise Refused(f"a call that says it is from {end} is not signed by it", why="credentials")
    # Only of a moment that is signed too.
    if not _SECONDS.fullmatch(moment) or abs(time.time() - int(moment)) > LONGEST_AGO_SECONDS:
        raise Refused(f"a call from {end} is more than five minutes old, or ahead of time", why="credentials")
    try:
        return _event(read_json(call.body))
    except (Unreadable, KeyError, TypeError, ValueError, AttributeError) as error:
        raise Refused(f"{end} called with something that is no event: {error}") from error


def _signature(secret: str, moment: str, body: bytes) -> bytes:
    return hmac.new(secret.encode(), f"{moment}.".encode() + body, hashlib.sha256).hexdigest().encode()


def _event(said: Mapping[str, Any]) -> Event:
    return Event(
        id=str(said["call"]),
        kind=_KINDS[said["moved"]],
        number=str(said["number"]),
        at=datetime.fromisoformat(said["at"]),
    )
