"""The signature under what a stand-in calls out, as Standard Webhooks has it."""

from __future__ import annotations

from datetime import datetime

from standardwebhooks.webhooks import Webhook


def signed_headers(secret: str, body: str, *, identity: str, at: datetime, content_type: str) -> dict[str, str]:
    """The headers of a call with that body, made at that moment."""
    return {
        "content-type": content_type,
        "webhook-id": identity,
        "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=identity, timestamp=at, data=body),
    }
