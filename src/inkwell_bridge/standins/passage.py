"""A passage to a real system: what comes in goes on to it and its answer comes back, unless told to misbehave.

A real system cannot be told to cut a connection or to answer with nonsense; whoever speaks to it through
here meets both. A call goes by the name it has in its own protocol: the method of JSON-RPC, the operation
of GraphQL, else the path.
"""

from __future__ import annotations

import json
from typing import Any

import httpx
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

# What belongs to one connection alone, and not to what is said over it (RFC 9110, section 7.6.1).
_OF_THE_CONNECTION = frozenset({"connection", "keep-alive", "transfer-encoding", "upgrade", "te", "trailer", "host",
                                "content-length", "content-encoding", "accept-encoding"})  # fmt: skip
PATIENCE_SECONDS = 120.0


class Passage:
    """Where each world leads to."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()
        limits = httpx.Limits(max_keepalive_connections=0)
        # What is behind it is on this machine, in plain HTTP: there are no certificates to load.
        self._client = httpx.AsyncClient(timeout=PATIENCE_SECONDS, trust_env=False, verify=False, limits=limits)  # noqa: S501

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Say where a world leads to: ``leads_to`` is an address."""
        self.store.put(world, "passage", 1, {"leads_to": contents["leads_to"].rstrip("/")})

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Where it leads to, for the page."""
        return "Passage", [Table(title="Leads to", heads=["Address"], rows=[[self._leads_to(world)]])]

    def _leads_to(self, world: str) -> str:
        return str((self.store.get(world, "passage", 1) or {}).get("leads_to", ""))

    async def answer(self, request: Request) -> Response:
        """Pass a call on, as the rules of its world want it."""
        world, body = request.path_params["world"], await request.body()
        address = self._leads_to(world)
        if not address:
            return JSONResponse({"error": "this passage leads nowhere"}, 404)

        async def work() -> Response:
            headers = [(name, value) for name, value in request.headers.items() if name not in _OF_THE_CONNECTION]
            url = f"{address}{request.path_params['rest']}"
            try:
                answered = await self._client.request(request.method, url, content=body, headers=headers,
                                                      params=dict(request.query_params))  # fmt: skip
            except httpx.HTTPError as error:
                return JSONResponse({"error": f"nobody answers behind this passage: {type(error).__name__}"}, 502)
            kept = {name: value for name, value in answered.headers.items() if name not in _OF_THE_CONNECTION}
            return Response(answered.content, answered.status_code, headers=kept)

        return await self.misbehaviour.around(world, _call(request, body), work)


def _call(request: Request, body: bytes) -> str:
    try:
        said = json.loads(body)
        name = said.get("method") or said.get("operationName") or ""
    except (ValueError, AttributeError):
        name = ""
    return str(name).removeprefix("model.") or request.path_params["rest"]


def application(store: Store) -> Starlette:
    """The passage as an ASGI application; each first part of a path leads to a system of its own."""
    passage = Passage(store)
    return Starlette(
        routes=[
            *control_routes(store, passage.misbehaviour, passage.load, passage.look),
            Route("/{world}{rest:path}", passage.answer, methods=["GET", "POST", "PUT"]),
        ]
    )
