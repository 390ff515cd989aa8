"""Telling a stand-in to misbehave.

A rule names the call it lies in wait for and what happens then:

| kind         | what happens                                                                     |
|--------------|----------------------------------------------------------------------------------|
| latency      | the answer comes ``seconds`` late                                                |
| busy         | 429 with Retry-After of ``seconds``; nothing is done                             |
| broken       | 500; nothing is done                                                             |
| revoked      | 401: the key has been taken back; nothing is done                                |
| expired      | 401: the key has run out; nothing is done                                        |
| forbidden    | 403: the right is missing; nothing is done                                       |
| cut          | the connection is cut half-way through the answer, after the work was done       |
| silent       | the work is done, the answer never comes                                         |
| late         | the connection is cut at once, the work is done ``seconds`` later                |
| hold         | the call waits before its work until it is released                              |
| hold after   | the work is done, the answer waits until it is released                          |
| repeat       | a list gives its last entry twice                                                |
| skip         | a list leaves its last entry out                                                 |
| said         | the answer is ``body``, of ``content_type``, whatever was asked                  |
| huge         | the answer does not end before ``bytes`` have gone                               |

What a sales side calls out is misled by rules for the call ``webhook``: latency, twice, reordered, badly signed.
"""

from __future__ import annotations

import asyncio
import json
import random
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response, StreamingResponse

Work = Callable[[], Awaitable[Response]]
LONGEST_WAIT_SECONDS = 600.0
NOT_DONE = {"revoked": (401, "this key has been revoked"), "expired": (401, "this key has expired"),
            "forbidden": (403, "this key has not the right"), "broken": (500, "internal error")}  # fmt: skip
KINDS = ("latency", "busy", *NOT_DONE, "cut", "silent", "late", "hold", "hold after", "repeat", "skip", "said",
         "huge", "twice", "reordered", "badly signed")  # fmt: skip


@dataclass(slots=True, kw_only=True)
class Rule:
    """One way to misbehave: passes over the first ``skip`` calls, then strikes ``times`` times, with a ``chance``,
    and only for so long after it was made as ``lasts_seconds`` says."""

    call: str
    kind: str
    seconds: float = 1.0
    skip: int = 0
    times: int = 1
    chance: float = 1.0
    lasts_seconds: float | None = None
    body: str = ""
    content_type: str = "application/json"
    bytes: int = 500_000_000
    struck: int = 0
    waiting: int = 0
    seed: int = 1
    released: asyncio.Event = field(default_factory=asyncio.Event)
    dice: random.Random = field(init=False)
    made_at: float = field(init=False)

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ValueError(f"expected one of {', '.join(KINDS)}, got {self.kind!r}")
        self.dice = random.Random(self.seed)
        self.made_at = time.monotonic()

    def strikes(self, call: str) -> bool:
        """Whether this call is the one."""
        if call != self.call or self.times <= 0 or self._is_over() or self.dice.random() >= self.chance:
            return False
        if self.skip:
            self.skip -= 1
            return False
        self.times -= 1
        self.struck += 1
        return True

    def _is_over(self) -> bool:
        return self.lasts_seconds is not None and time.monotonic() > self.made_at + self.lasts_seconds


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

    def rule_for(self, world: str, call: str) -> Rule | None:
        """The rule that strikes this call, if one does."""
        return next((rule for rule in self._rules.get(world, []) if rule.strikes(call)), None)

    async def around(self, world: str, call: str, work: Work) -> Response:
        """Do ``work`` as the rules of ``world`` want it done."""
        rule = self.rule_for(world, call)
        return await work() if rule is None else await self._struck(rule, work)

    async def _struck(self, rule: Rule, work: Work) -> Response:
        if rule.kind in NOT_DONE:
            status, said = NOT_DONE[rule.kind]
            return JSONResponse({"error": said}, status)
        match rule.kind:
            case "latency":
                await asyncio.sleep(rule.seconds)
                return await work()
            case "busy":
                return JSONResponse({"error": "busy"}, 429, headers={"Retry-After": f"{rule.seconds:g}"})
            case "cut":
                return CutResponse((await work()).body)
            case "late":
                self._do_later(rule.seconds, work)
                return CutResponse(b"{}")
            case "hold":
                await self._wait(rule)
                return await work()
            case "repeat" | "skip":
                return _relisted(await work(), rule.kind)
            case "said":
                return Response(rule.body.encode("utf-8", "surrogateescape"), media_type=rule.content_type)
            case "huge":
                return StreamingResponse(_endless(rule.bytes), media_type=rule.content_type)
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


def _relisted(response: Response, kind: str) -> Response:
    said = json.loads(bytes(response.body))
    for name, entries in said.items():
        if isinstance(entries, list) and entries:
            said[name] = [*entries, entries[-1]] if kind == "repeat" else entries[:-1]
    link = {"Link": response.headers["Link"]} if "Link" in response.headers else {}
    return JSONResponse(said, headers=link)


async def _endless(count: int) -> AsyncIterator[bytes]:
    piece = b'["' + b"x" * 65_532 + b'",'
    for _ in range(count // len(piece)):
        yield piece


async def rules_from(request: Request) -> list[dict[str, Any]]:
    """The rules in a request's body."""
    return list((await request.json())["rules"])
