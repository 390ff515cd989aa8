"""What the web shop calls out: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, datetime
from typing import Any

from standardwebhooks.webhooks import Webhook


def signed(secret: str, kind: str, entry: dict[str, Any]) -> tuple[dict[str, str], str]:
    """A call that a document changed, named by the number that people know."""
    identity, now = f"evt_{uuid.uuid4().hex}", datetime.now(UTC)
    body = json.dumps(
        {
            "specversion": "1.0",
            "id": identity,
            "source": "web-shop",
            "type": f"{kind}.changed",
            "subject": entry["reference"],
            "time": now.isoformat(),
        }
    )
    headers = {
        "content-type": "application/cloudevents+json",
        "webhook-id": identity,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=identity, timestamp=now, data=body),
    }
    return headers, body
