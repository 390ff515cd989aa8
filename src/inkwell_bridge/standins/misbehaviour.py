"""Telling a stand-in to misbehave.

A rule names the call it lies in wait for and what happens then:

| kind      | what happens                                                                     |
|-----------|----------------------------------------------------------------------------------|
| latency   | the answer comes ``seconds`` late                                                |
| busy      | 429 with Retry-After of ``seconds``; nothing is done                             |
| broken    | 500; nothing is done                                                             |
| cut       | the connection is cut half-way through the answer, after the work was done       |
| silent    | the work is done, the answer never comes                                         |
| late      | the connection is cut at once, the work is done ``seconds`` later                |
| hold      | the call waits before its work until it is released                              |
| hold after| the work is done, the answer waits until it is released                          |
"""

from __future__ import annotations

import asyncio
import random
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

Work = Callable[[], Awaitable[Response]]
LONGEST_WAIT_SECONDS = 600.0
KINDS = ("latency", "busy", "broken", "cut", "silent", "late", "hold", "hold after")


@dataclass(slots=True, kw_only=True)
class Rule:
    """One way to misbehave: passes over the first ``skip`` calls, then strikes ``times`` times."""

    call: str
    kind: str
    seconds: float = 1.0
    skip: int = 0
    times: int = 1
    chance: float = 1.0
    struck: int = 0
    waiting: int = 0
    seed: int = 1
    released: asyncio.Event = field(default_factory=asyncio.Event)
    dice: random.Random = field(init=False)

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ValueError(f"expected one of {', '.join(KINDS)}, got {self.kind!r}")
        self.dice = random.Random(self.seed)

    def strikes(self, call: str) -> bool:
        """Whether this call is the one."""
        if call != self.call or self.times <= 0 or self.dice.random() >= self.chance:
            return False
        if self.skip:
            self.skip -= 1
            return False
        self.times -= 1
        self.struck += 1
        return True


class CutResponse(Response):
    """Promises more than it sends, so that the server has to cut the connection."""

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        length = str(len(self.body) + 1000).encode()
        headers = [(b"content-length", length), (b"content-type", b"application/json")]
        await send({"type": "http.response.start", "status": 200, "headers": headers})
        await send({"type": "http.response.body", "body": self.body[: len(self.body) // 2], "more_body": True})
        await send({"type": "http.response.body", "body": b"", "more_body": False})


class Misbehaviour:
    """The rules in force, by world."""

    def __init__(self) -> None:
        self._rules: dict[str, list[Rule]] = {}
        self._later: set[asyncio.Task[Any]] = set()

    def set_rules(self, world: str, rules: list[dict[str, Any]]) -> None:
        """Put these rules in place of all others of a world, and release whoever waits."""
        fresh = [Rule(**rule) for rule in rules]
        for rule in self._rules.get(world, []):
            rule.released.set()
        self._rules[world] = fresh

    def report(self, world: str) -> list[dict[str, Any]]:
        """How often each rule struck, and how many calls it keeps waiting."""
        return [
            {"call": rule.call, "kind": rule.kind, "struck": rule.struck, "waiting": rule.waiting, "times": rule.times}
            for rule in self._rules.get(world, [])
        ]

    async def around(self, world: str, call: str, work: Work) -> Response:
        """Do ``work`` as the rules of ``world`` want it done."""
        rule = next((rule for rule in self._rules.get(world, []) if rule.strikes(call)), None)
        return await work() if rule is None else await self._struck(rule, work)

    async def _struck(self, rule: Rule, work: Work) -> Response:
        match rule.kind:
            case "latency":
                await asyncio.sleep(rule.seconds)
                return await work()
            case "busy":
                return JSONResponse({"error": "busy"}, 429, headers={"Retry-After": f"{rule.seconds:g}"})
            case "broken":
                return JSONResponse({"error": "internal error"}, 500)
            case "cut":
                return CutResponse((await work()).body)
            case "late":
                self._do_later(rule.seconds, work)
                return CutResponse(b"{}")
            case "hold":
                await self._wait(rule)
                return await work()
            case _:
                response = await work()
                await self._wait(rule)
                return CutResponse(b"{}") if rule.kind == "silent" else response

    async def _wait(self, rule: Rule) -> None:
        rule.waiting += 1
        try:
            await asyncio.wait_for(rule.released.wait(), LONGEST_WAIT_SECONDS)
        except TimeoutError:
            pass
        finally:
            rule.waiting -= 1

    def _do_later(self, seconds: float, work: Work) -> None:
        async def later() -> None:
            await asyncio.sleep(seconds)
            await work()

        task = asyncio.create_task(later())
        self._later.add(task)
        task.add_done_callback(self._later.discard)


async def rules_from(request: Request) -> list[dict[str, Any]]:
    """The rules in a request's body."""
    return list((await request.json())["rules"])
