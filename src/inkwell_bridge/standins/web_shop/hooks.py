"""Calling out when something changes: Standard Webhooks for the signature, CloudEvents 1.0 for what is said."""

from __future__ import annotations

import asyncio
import json
import uuid
from datetime import UTC, datetime
from typing import Any

import httpx
from standardwebhooks.webhooks import Webhook

from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

CALL = "webhook"
TRIES = 3


class Hooks:
    """Tells whoever is registered under ``hook`` of a world, after what a rule for ``webhook`` makes of it."""

    def __init__(self, store: Store, misbehaviour: Misbehaviour) -> None:
        self._store = store
        self._misbehaviour = misbehaviour
        self._under_way: set[asyncio.Task[None]] = set()
        self._kept_back: dict[str, tuple[dict[str, str], str]] = {}

    def address(self, world: str) -> str:
        """Whom this shop calls."""
        hook = self._store.get(world, "hook", 1)
        return str(hook["url"]) if hook else ""

    def register(self, world: str, address: str, secret: str) -> None:
        """Call that address from now on; an empty one is nobody."""
        self._store.put(world, "hook", 1, {"url": address, "secret": secret})

    def tell(self, world: str, kind: str, entry: dict[str, Any]) -> None:
        """Start telling that a document changed; nobody waits for it."""
        hook = self._store.get(world, "hook", 1)
        if hook is None or not hook["url"]:
            return
        task = asyncio.create_task(self._tell(world, hook, kind, entry))
        self._under_way.add(task)
        task.add_done_callback(self._under_way.discard)

    async def _tell(self, world: str, hook: dict[str, Any], kind: str, entry: dict[str, Any]) -> None:
        rule = self._misbehaviour.rule_for(world, CALL)
        misdeed = rule.kind if rule else ""
        if rule and misdeed == "latency":
            await asyncio.sleep(rule.seconds)
        headers, body = _signed(hook["secret"], kind, entry)
        if misdeed == "badly signed":
            headers["webhook-signature"] = "v1,bm90IHRoZSByaWdodCBzaWduYXR1cmU="
        if misdeed == "reordered":
            self._kept_back[world] = (headers, body)
            return
        await _send(hook["url"], headers, body)
        if misdeed == "twice":
            await _send(hook["url"], headers, body)
        if world in self._kept_back:
            await _send(hook["url"], *self._kept_back.pop(world))


def _signed(secret: str, kind: str, entry: dict[str, Any]) -> tuple[dict[str, str], str]:
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


async def _send(url: str, headers: dict[str, str], body: str) -> None:
    async with httpx.AsyncClient(trust_env=False, verify=False, timeout=5) as client:  # noqa: S501 plain HTTP
        for pause in range(TRIES):
            try:
                answer = await client.post(url, content=body, headers=headers)
                if answer.status_code < 500:
                    return
            except httpx.HTTPError:
                pass
            await asyncio.sleep(0.2 * (pause + 1))
