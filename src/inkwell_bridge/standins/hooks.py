"""Calling out when something changes, in the words and under the signature of whoever calls."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

import httpx

from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

CALL = "webhook"
TRIES = 3
# What a call is signed with that somebody else makes.
WRONG_SECRET = "whsec_bm90IHRoZSByaWdodCBzZWNyZXQ="  # noqa: S105 nobody's
Call = tuple[dict[str, str], str]
# The headers and the body of a call about a document of a kind, signed with a secret.
Signed = Callable[[str, str, dict[str, Any]], Call]


class Hooks:
    """Tells whoever is registered under ``hook`` of a world, after what a rule for ``webhook`` makes of it."""

    def __init__(self, store: Store, misbehaviour: Misbehaviour, signed: Signed) -> None:
        self._store = store
        self._signed = signed
        self._misbehaviour = misbehaviour
        self._under_way: set[asyncio.Task[None]] = set()
        self._kept_back: dict[str, Call] = {}

    def address(self, world: str) -> str:
        """Who is called; nobody, where it is empty."""
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
        secret = WRONG_SECRET if misdeed == "badly signed" else hook["secret"]
        headers, body = self._signed(secret, kind, entry)
        if misdeed == "reordered":
            self._kept_back[world] = (headers, body)
            return
        await _send(hook["url"], headers, body)
        if misdeed == "twice":
            await _send(hook["url"], headers, body)
        if world in self._kept_back:
            await _send(hook["url"], *self._kept_back.pop(world))


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
