"""What stand-ins with a bearer token (RFC 6750) have in common: who may come in, and how they are turned away."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Callable
from decimal import InvalidOperation
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

LARGEST_PAGE = 1000
Do = Callable[[Request, str, bytes], Response]


class Turned(Exception):
    """The call is turned away with a status and a reason."""

    def __init__(self, status: int, said: str) -> None:
        self.status = status
        super().__init__(said)


async def answer(
    request: Request, *, store: Store, misbehaviour: Misbehaviour, call: str, right: str, do: Do
) -> Response:
    """Check the token and its rights, then do the call as the misbehaviour rules want it."""
    world, body = request.path_params["world"], await request.body()

    async def work() -> Response:
        company: dict[str, Any] | None = store.get(world, "company", 1)
        if company is None:
            return error(404, "nobody lives here")
        if request.headers.get("authorization") != f"Bearer {company['token']}":
            return error(401, "unknown token")
        if right and right not in company["permissions"]:
            return error(403, f"this token may not: {right}")
        try:
            return do(request, world, body)
        except Turned as turned:
            return error(turned.status, str(turned))
        except (KeyError, TypeError, ValueError, InvalidOperation) as wrong:
            return error(422, f"the call does not fit: {wrong!r}")

    return await misbehaviour.around(world, call, work)


def basic(request: Request) -> tuple[str, str] | None:
    """Name and secret of HTTP's basic authentication (RFC 7617); nothing where there is none."""
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() != "basic":
        return None
    try:
        name, _, secret = base64.b64decode(token, validate=True).decode().partition(":")
    except (binascii.Error, UnicodeDecodeError):
        return None
    return name, secret


def listed(store: Store, request: Request, kind: str) -> dict[str, Any]:
    """Documents by number, from the one that ``after`` names on, at most ``limit``."""
    given = request.query_params
    limit = min(int(given.get("limit", "100")), LARGEST_PAGE)
    return store.behind(request.path_params["world"], kind, after=int(given["after"]), limit=limit)


def error(status: int, said: str) -> Response:
    """A refusal with its reason."""
    return JSONResponse({"error": said}, status)
