"""The page on which a buyer pays; no card is asked for, as nothing here is real."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from html import escape
from urllib.parse import parse_qs

from starlette.requests import Request
from starlette.responses import HTMLResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.payment_provider.requests import Json, Requests

_DIGITS = {"JPY": 0, "KWD": 3}


def page_routes(requests: Requests) -> list[Route]:
    """Routes of the pages that buyers open."""

    async def page(request: Request) -> Response:
        world, key = request.path_params["world"], request.path_params["key"]
        standing = requests.by_key(world, key)
        if standing is None:
            return _said("There is nothing to pay here.", 404)
        closed = _closed(requests, world, key, standing)
        if closed:
            return _said(closed, 410)
        left = standing["minor"] - standing["came_in"]
        if left <= 0:
            return _said(f"{standing['says']} is paid. Thank you.")
        if request.method == "POST":
            asked = parse_qs((await request.body()).decode())
            # A buyer may pay a part of it.
            minor = min(int(asked.get("minor", [str(left)])[0]), left)
            if minor > 0:
                taken = requests.take(world, standing, minor, "card")
                return _said(f"Thank you: {_amount(minor, standing['money'])} was paid ({taken['taking']}).")
        return _said(f"{standing['says']}: {_amount(left, standing['money'])}", form=True)

    return [Route("/{world}/pay/{key}", page, methods=["GET", "POST"])]


def _closed(requests: Requests, world: str, key: str, standing: Json) -> str:
    now = requests.now(world)
    if standing["dropped"]:
        return f"{standing['says']} is not asked for any more."
    if standing["closes"] and now.date().isoformat() > standing["closes"]:
        return f"{standing['says']} could be paid until {standing['closes']}."
    if key != standing["key"] or datetime.fromisoformat(standing["page_until"]) <= now:
        return "This page has run out. Ask for another."
    return ""


def _amount(minor: int, currency: str) -> str:
    return f"{Decimal(minor).scaleb(-_DIGITS.get(currency, 2)):f} {currency}"


def _said(text: str, status: int = 200, *, form: bool = False) -> Response:
    button = "<form method=post><button>Pay now</button></form>" if form else ""
    return HTMLResponse(
        "<!doctype html><html lang=en><meta charset=utf-8><title>Weirgate</title>"
        "<style>body{font:18px/1.5 serif;margin:3rem auto;max-width:30rem}"
        "button{font:inherit;padding:.5rem 2rem}</style>"
        f"<h1>Weirgate</h1><p>{escape(text)}</p>{button}</html>",
        status,
    )
