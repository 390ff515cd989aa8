"""The provider's requests for payment: what a buyer is asked for, the page where it is paid, and what came in.

A page can be paid on for thirty days; then another takes its place, as often as the merchant asks. What a buyer has on
file is charged when the request is made, and a page is there all the same where that fails.
"""

from __future__ import annotations

import json
import secrets
from datetime import UTC, datetime, timedelta
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.control import page_of
from inkwell_bridge.standins.doors import Turned
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.keys import once
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
PAGE_DAYS = 30
TAKINGS = 50
_ASKED = ("ref", "bill", "bill_id", "made_for", "says", "minor", "money", "who", "from_file", "closes", "dropped")
_TOLD = ("request", *_ASKED, "came_in", "page_until", "altered")


class Requests:
    """A merchant's requests, and the takings on them."""

    def __init__(self, store: Store, hooks: Hooks) -> None:
        self.store = store
        self._hooks = hooks

    def load(self, world: str, contents: Json) -> None:
        """Who has something on file (``wallets``, by the merchant's name for a buyer), the moment that the provider's
        clock goes on from (``clock``), and money that came in whatever a request still asked for (``came_in``)."""
        for wallet in contents.get("wallets", []):
            self.store.add(world, "wallet", wallet, find=wallet["who"])
        if "clock" in contents:
            ahead = datetime.fromisoformat(contents["clock"]) - datetime.now(UTC)
            self.store.put(world, "clock", 1, {"ahead_seconds": ahead.total_seconds()})
        for one in contents.get("came_in", []):
            (request,) = self.store.search(world, "request", one["ref"])
            self.take(world, request, int(one["minor"]), "bank")

    def now(self, world: str) -> datetime:
        """The provider's own time."""
        clock = self.store.get(world, "clock", 1) or {"ahead_seconds": 0}
        return datetime.now(UTC) + timedelta(seconds=clock["ahead_seconds"])

    def make(self, request: Request, world: str, body: bytes) -> Response:
        """Make a request, once under each key and each reference; charge what is on file where that is asked."""
        return once(self.store, world, request, body, lambda: self._make(world, body))

    def _make(self, world: str, body: bytes) -> Response:
        asked = json.loads(body)
        if self.store.has(world, "request", asked["ref"]):
            raise Turned(409, f"there is a request under {asked['ref']} already")
        if asked["minor"] <= 0:
            raise Turned(422, "a request asks for something")
        number = self.store.highest(world, "request") + 1
        made = {**{name: asked[name] for name in _ASKED}, "id": number, "request": f"RQ-{number:04}", "came_in": 0,
                "key": "", "page_until": "", "altered": ""}  # fmt: skip
        self.keep(world, self._with_page(world, made))
        if made["from_file"] and self._on_file(world, made["who"]):
            self.take(world, made, made["minor"], "on file")
        return self._answer(world, number, 201)

    def change(self, request: Request, world: str, body: bytes) -> Response:
        """Let one ask for something else, close on another day, or be dropped or taken up again."""
        standing, asked = self.found(request, world), json.loads(body)
        if asked["minor"] < standing["came_in"]:
            raise Turned(409, f"{standing['came_in']} have come in on {standing['request']} already")
        changed = {name: asked[name] for name in ("minor", "closes", "dropped")}
        if any(standing[name] != value for name, value in changed.items()):
            self.keep(world, {**standing, **changed})
        return self._answer(world, standing["id"])

    def renew(self, request: Request, world: str, _: bytes) -> Response:
        """A page that can be paid on now; one that still can stays."""
        standing = self.found(request, world)
        if datetime.fromisoformat(standing["page_until"]) <= self.now(world):
            self.keep(world, self._with_page(world, standing))
        return self._answer(world, standing["id"])

    def read(self, request: Request, world: str, _: bytes) -> Response:
        """One request."""
        return self._answer(world, self.found(request, world)["id"])

    def search(self, request: Request, world: str, _: bytes) -> Response:
        """Those under some references."""
        found = self.store.search(world, "request", *request.query_params.getlist("ref")[:TAKINGS])
        return JSONResponse({"requests": [self._told(world, one) for one in found]})

    def takings(self, request: Request, world: str, body: bytes) -> Response:
        """What came in, oldest first; or some of it by its numbers."""
        given = request.query_params
        if "numbers" in given:
            found = self.store.search(world, "taking", *given["numbers"].split(",")[:TAKINGS])
            return JSONResponse({"takings": found, "cursor": None})
        moment, _, number = given.get("cursor", "").rpartition("|")
        after = (moment, int(number)) if number else (given.get("altered_since") or "0", 0)
        found = self.store.page(world, "taking", after=after, limit=TAKINGS + 1)
        last = found[TAKINGS - 1] if len(found) > TAKINGS else None
        cursor = f"{last['altered']}|{last['id']}" if last else None
        return JSONResponse({"takings": found[:TAKINGS], "cursor": cursor})

    def taking(self, request: Request, world: str, _: bytes) -> Response:
        """One of them."""
        found = self.store.search(world, "taking", request.path_params["taking"])
        if not found:
            raise Turned(404, "no such taking")
        return JSONResponse(found[0])

    def take(self, world: str, request: Json, minor: int, how: str) -> Json:
        """Take money on a request, and tell whoever listens."""
        number, now = self.store.highest(world, "taking") + 1, self.now(world).isoformat()
        taken = {
            **{name: request[name] for name in ("request", "ref", "bill", "bill_id", "money")},
            "id": number, "taking": f"WGR-{number:05}", "minor": minor, "how": how, "when": now, "landed": now,
            "altered": now,
        }  # fmt: skip
        self.store.put(world, "taking", number, taken, find=taken["taking"], sort=now)
        # Read again: two buyers may pay on one page at the same time, and both sums count.
        standing = self.store.get(world, "request", request["id"]) or request
        self.keep(world, {**standing, "came_in": standing["came_in"] + minor})
        self._hooks.tell(world, "taking", taken)
        return taken

    def keep(self, world: str, request: Json) -> None:
        """Write a request down."""
        altered = {**request, "altered": self.now(world).isoformat()}
        self.store.put(world, "request", request["id"], altered, find=request["ref"])

    def found(self, request: Request, world: str) -> Json:
        """The request of a call."""
        number = request.path_params["request"].removeprefix("RQ-")
        standing = self.store.get(world, "request", int(number)) if number.isdecimal() else None
        if standing is None:
            raise Turned(404, "no such request")
        return standing

    def by_key(self, world: str, key: str) -> Json | None:
        """The request whose page has that key, its last one or an older one; pages are keys without a guess."""
        (page,) = self.store.search(world, "page", key) or [{"id": 0}]
        return self.store.get(world, "request", page["request_id"]) if page["id"] else None

    def _with_page(self, world: str, request: Json) -> Json:
        key = secrets.token_urlsafe(18)
        self.store.add(world, "page", {"request_id": request["id"]}, find=key)
        return {**request, "key": key, "page_until": (self.now(world) + timedelta(days=PAGE_DAYS)).isoformat()}

    def _on_file(self, world: str, who: str) -> bool:
        return any(not one.get("declines") for one in self.store.search(world, "wallet", who))

    def _told(self, world: str, request: Json) -> Json:
        return {**{name: request[name] for name in _TOLD}, "page": f"/{world}/pay/{request['key']}",
                "screen": page_of(world, "request", request["id"])}  # fmt: skip

    def _answer(self, world: str, number: int, status: int = 200) -> Response:
        standing = self.store.get(world, "request", number)
        assert standing is not None
        return JSONResponse(self._told(world, standing), status)
