"""What the ERP calls out: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, datetime
from typing import Any

from inkwell_bridge.standins.signing import signed_headers


def signed(secret: str, kind: str, document: dict[str, Any]) -> tuple[dict[str, str], str]:
    """A call that a document changed, named by its number in the books."""
    identity, now = f"erp-{uuid.uuid4().hex}", datetime.now(UTC)
    said = {"specversion": "1.0", "id": identity, "source": "erp", "type": f"{kind}.changed",
            "subject": document["number"], "time": now.isoformat()}  # fmt: skip
    body = json.dumps(said)
    headers = signed_headers(secret, body, identity=identity, at=now, content_type="application/cloudevents+json")
    return headers, body
