"""Calling out: Standard Webhooks for the signature, CloudEvents 1.0 for what is said.

Bounded and guarded as every call to an end is: no redirect is followed, no address outside the guard is reached.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from standardwebhooks.webhooks import Webhook

from inkwell_bridge.ends.guard import Guard
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Limits, Opening

# Nobody has more to say to a notice; what is longer is not read.
_LIMITS = Limits(timeout_seconds=10, connect_timeout_seconds=5, longest_answer_seconds=15, largest_answer_bytes=64_000)
# The media type of a CloudEvent in structured mode (CloudEvents, JSON format 1.0, section 3).
CONTENT_TYPE = "application/cloudevents+json"


def call_out(address: str, secret: str, event: Mapping[str, Any], *, guard: Guard, at: datetime | None = None) -> int:
    """Tell somebody of an event, signed; answers the status that it was taken with (2xx).

    ``event`` is a CloudEvent as JSON values; its ``id`` is the same for every try, so that whoever is called twice can
    tell.

    Raises:
        EndError: it was not taken; its text says why.
    """
    body = json.dumps(dict(event), ensure_ascii=False)
    at = at or datetime.now(UTC)
    identity = str(event["id"])
    headers = {
        "Content-Type": CONTENT_TYPE,
        "webhook-id": identity,
        "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=identity, timestamp=at, data=body),
    }
    http = Http(Opening(address=address, credentials={}, limits=_LIMITS, guard=guard))
    _, response = http.call(
        "POST", address, changes=False, reads=lambda _: None, kind="", content=body.encode(), headers=headers
    )
    return int(response.status_code)
