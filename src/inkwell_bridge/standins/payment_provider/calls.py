"""What the provider calls out, by Standard Webhooks: that something of a kind was made, and its number."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, datetime
from typing import Any

from inkwell_bridge.standins.signing import signed_headers


def signed(secret: str, kind: str, entry: dict[str, Any]) -> tuple[dict[str, str], str]:
    """A call that something was made, named by its number under the name of its kind."""
    identity, now = f"wgc_{uuid.uuid4().hex}", datetime.now(UTC)
    body = json.dumps({"id": identity, "type": f"{kind}.made", "subject": entry[kind], "time": now.isoformat()})
    headers = signed_headers(secret, body, identity=identity, at=now, content_type="application/json")
    return headers, body
