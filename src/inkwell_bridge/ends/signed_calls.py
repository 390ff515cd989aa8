"""Signed calls from outside: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Sequence
from contextlib import suppress
from datetime import datetime
from typing import Any

from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.reading import Unreadable, read_json
from inkwell_bridge.ends.shapes import Event, SignedCall

LARGEST_CALL_BYTES = 256_000
# As long as the standard has it: 24 to 64 bytes.
_SECRET_BYTES = 24


def new_signing_secret() -> str:
    """A secret to sign calls with, as Standard Webhooks writes one: ``whsec_`` and base64."""
    return f"whsec_{base64.b64encode(secrets.token_bytes(_SECRET_BYTES)).decode()}"


def event_of(call: SignedCall, *, secrets: Sequence[str], end: str) -> Event:
    """What a call told, signed with any of these secrets. Its time must be within five minutes of now, as the standard
    has it.

    Raises:
        Refused: with ``why`` credentials where the signature is not right, else document.
    """
    if not any(secrets):
        raise Refused(f"{end} called, but no secret for its calls was entered", why="credentials")
    if len(call.body) > LARGEST_CALL_BYTES:
        raise Refused(f"{end} called with more than {LARGEST_CALL_BYTES} bytes")
    _verify(call, [secret for secret in secrets if secret], end)
    try:
        return _event(read_json(call.body))
    except (Unreadable, KeyError, TypeError, ValueError, AttributeError) as error:
        raise Refused(f"{end} called with something that is no event: {error}") from error


def _verify(call: SignedCall, secrets: Sequence[str], end: str) -> None:
    headers = {name.lower(): value for name, value in call.headers.items()}
    *others, last = secrets
    for secret in others:
        with suppress(WebhookVerificationError, ValueError, RuntimeError):
            Webhook(secret).verify(call.body, headers, json_parse=False)
            return
    try:
        Webhook(last).verify(call.body, headers, json_parse=False)
    except (WebhookVerificationError, ValueError, RuntimeError) as error:
        raise Refused(f"a call that says it is from {end} is not signed by it: {error}", why="credentials") from error


def _event(said: Any) -> Event:
    """Type such as ``order.changed``: the kind of document in the singular, then what happened."""
    noun = str(said["type"]).partition(".")[0]
    return Event(
        id=str(said["id"]),
        kind=_KINDS[noun],
        number=str(said["subject"]),
        at=datetime.fromisoformat(said["time"]),
    )


_KINDS = {
    "order": SourceKind.ORDERS,
    "customer": SourceKind.CUSTOMERS,
    "product": SourceKind.PRODUCTS,
    "refund": SourceKind.REFUNDS,
    "dispatch": SourceKind.DISPATCHES,
    "stock": SourceKind.STOCK,
    "payout": SourceKind.PAYOUTS,
    "taking": SourceKind.REQUEST_PAYMENTS,
    "charge": SourceKind.CHARGES,
    # Of the books: whatever it is, it is read again there.
    "document": None,
}
