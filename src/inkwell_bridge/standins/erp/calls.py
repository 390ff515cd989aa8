"""What the ERP calls out: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, datetime
from typing import Any

from standardwebhooks.webhooks import Webhook


def signed(secret: str, kind: str, document: dict[str, Any]) -> tuple[dict[str, str], str]:
    """A call that a document changed, named by its number in the books."""
    identity, now = f"erp-{uuid.uuid4().hex}", datetime.now(UTC)
    said = {"specversion": "1.0", "id": identity, "source": "erp", "type": f"{kind}.changed",
            "subject": document["number"], "time": now.isoformat()}  # fmt: skip
    body = json.dumps(said)
    headers = {
        "content-type": "application/cloudevents+json",
        "webhook-id": identity,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=identity, timestamp=now, data=body),
    }
    return headers, body
