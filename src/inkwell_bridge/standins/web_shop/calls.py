"""What the web shop calls out: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, datetime
from typing import Any

from inkwell_bridge.standins.signing import signed_headers


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
    headers = signed_headers(secret, body, identity=identity, at=now, content_type="application/cloudevents+json")
    return headers, body
