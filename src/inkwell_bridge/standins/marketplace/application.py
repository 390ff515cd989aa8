"""The marketplace's doors: the consent page, tokens, and the seller's calls at their pace."""

from __future__ import annotations

from collections.abc import Callable
from decimal import InvalidOperation
from html import escape
from typing import Any
from urllib.parse import parse_qsl, urlencode

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.after_sale import after_sale_route
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import basic
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.marketplace.after_sale import MarketAfterSale
from inkwell_bridge.standins.marketplace.calls import signed
from inkwell_bridge.standins.marketplace.grants import Grants, NotGranted, may_return_to
from inkwell_bridge.standins.marketplace.paces import Paces
from inkwell_bridge.standins.marketplace.stall import KINDS, NotHere, Stall
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
Do = Callable[[Request, str, Any], Any]
SCOPES = {"sales": "see its sales", "handbacks": "see money handed back", "sales.write": "note parcels on its sales"}
READING = {"sales": "sales", "handbacks": "handbacks", "parcels": "sales", "settlements": "sales"}
# Listed by when they were agreed, or handed back.
PERIODS = ("sales", "handbacks")
_OPEN_FACTS = ("name", "currency", "time_zone", "languages", "fairs")


class Marketplace:
    """The marketplace's calls."""

    def __init__(self, store: Store) -> None:
        self.stall, self.grants, self.paces = Stall(store), Grants(store), Paces()
        self.misbehaviour = Misbehaviour()
        self.hooks = Hooks(store, self.misbehaviour, signed)
        self.store = store

    def load(self, world: str, contents: Json) -> None:
        """See ``Stall.load``; ``sign_out`` takes every token back.

        ``calls`` (an ``address`` and a ``secret``) is whom the seller entered to be told of all that moves.
        """
        if contents.get("sign_out"):
            self.grants.end_all(world)
        moved = self.stall.load(world, contents)
        if called := contents.get("calls"):
            self.hooks.register(world, called["address"], called["secret"])
        for kind, entry in moved:
            self.hooks.tell(world, kind, entry)

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Sales and money handed back, for the page; and how well the pace was kept."""
        sales = [
            [sale["sale"], sale["fair"], sale["agreed"], sale["progress"], sale["tax_by"], sale["money"],
             str(sale["sums"]["tax"]), str(sale["sums"]["due"])]
            for sale in self.store.all(world, "sale")
        ]  # fmt: skip
        backs = [
            [one["handback"], one["sale"], one["on"], one["money"], str(one["sums"]["due"])]
            for one in self.store.all(world, "handback")
        ]
        settled = [
            [one["settlement"], one["made"], one["money"], str(one["due"]), str(len(one["rows"]))]
            for one in self.store.all(world, "settlement")
        ]
        paces = [[str(self.paces.answered.get(world, 0)), str(self.paces.turned_away.get(world, 0))]]
        heads = ["Sale", "Fair", "Agreed", "Progress", "Tax by", "Money", "Tax (minor units)", "Due (minor units)"]
        return self._company(world).get("name", "No such seller"), [
            Table(title="Sales", heads=heads, rows=sales),
            Table(title="Handed back", heads=["Number", "Sale", "On", "Money", "Due (minor units)"], rows=backs),
            Table(title="Settlements", heads=["Number", "Made", "Money", "Due (minor units)", "Rows"], rows=settled),
            Table(title="Pace", heads=["Calls answered", "Calls that came too fast"], rows=paces),
        ]

    def _company(self, world: str) -> Json:
        return self.store.get(world, "company", 1) or {}

    async def page(self, request: Request) -> Response:
        """The consent page, and what becomes of it."""
        world, asked = request.path_params["world"], dict(request.query_params)
        company = self._company(world)
        if asked.get("client_id") != company.get("client_id") or not may_return_to(
            company["redirects"], asked.get("redirect_uri", "")
        ):
            # Nobody is sent to an address that the application did not register (RFC 6749, section 4.1.2.1).
            return HTMLResponse("<p>This application is not known here, or may not be returned to there.", 400)
        wrong = asked.get("response_type") != "code" or asked.get("code_challenge_method") != "S256"
        if wrong or not asked.get("code_challenge"):
            return _back(asked, error="invalid_request")
        scopes = [scope for scope in asked.get("scope", "").split() if scope in SCOPES]
        if request.method == "GET":
            return HTMLResponse(_consent(company["name"], scopes))
        form = await _form(request)
        if form.get("answer") != "allow":
            return _back(asked, error="access_denied")
        left = [scope for scope in scopes if form.get(scope)]
        code = self.grants.code(world, challenge=asked["code_challenge"], return_to=asked["redirect_uri"], scopes=left)
        return _back(asked, code=code)

    async def token(self, request: Request) -> Response:
        """Tokens."""
        world, form = request.path_params["world"], await _form(request)

        async def work() -> Response:
            company = self._company(world)
            if not company:
                return _error(404, "nobody sells here")
            if basic(request) != (company["client_id"], company["client_secret"]):
                return _error(401, "invalid_client")
            try:
                return JSONResponse(self._granted(world, company, form), headers={"Cache-Control": "no-store"})
            except NotGranted as refused:
                return _error(400, str(refused))

        return await self.misbehaviour.around(world, "token", work)

    def _granted(self, world: str, company: Json, form: Json) -> Json:
        match form.get("grant_type"):
            case "authorization_code":
                return self.grants.for_code(world, form)
            case "refresh_token":
                return self.grants.renewed(world, form)
            case "client_credentials":
                return self.grants.for_application(world, company["permissions"])
        raise NotGranted("unsupported_grant_type")

    async def answer(self, request: Request, call: str, scope: str, do: Do) -> Response:
        """Check token and pace, then do the call as the misbehaviour rules want it."""
        world = request.path_params["world"]
        body = await request.json() if request.method == "PUT" and await request.body() else None

        async def work() -> Response:
            kind, _, token = request.headers.get("authorization", "").partition(" ")
            scopes = self.grants.scopes_of(world, token) if kind.lower() == "bearer" else None
            if scopes is None:
                return _error(401, "this token is unknown or has ended")
            if wait := self.paces.wait(world):
                return JSONResponse({"error": "too fast"}, 429, headers={"Retry-After": f"{wait:.3f}"})
            if scope and scope not in scopes:
                return _error(403, f"this token may not: {SCOPES[scope]}")
            try:
                done = do(request, world, body if body is not None else scopes)
                return done if isinstance(done, Response) else JSONResponse(done)
            except NotHere as missing:
                return _error(404, str(missing))
            except (KeyError, TypeError, ValueError, InvalidOperation) as wrong:
                return _error(422, f"the call does not fit: {wrong!r}")

        return await self.misbehaviour.around(world, call, work)

    def stand(self, request: Request, world: str, scopes: Any) -> Json:
        """Whose stand it is, and what this token opens."""
        company = self._company(world)
        return {**{name: company[name] for name in _OPEN_FACTS if name in company}, "scopes": scopes}

    def words(self, request: Request, world: str, _: Any) -> Json:
        """The marketplace's reference data."""
        company = self._company(world)
        return {**company["words"], **{name: company[name] for name in _OPEN_FACTS if name in company}}

    def listed(self, name: str) -> Do:
        """A list, by moves or by keys."""

        def do(request: Request, world: str, _: Any) -> Json:
            given = request.query_params
            if "keys" in given:
                return self.stall.by_keys(world, name, [int(one) for one in given["keys"].split(",") if one.isdigit()])
            return self.stall.listed(world, name, since=given.get("moved_since", ""), onward=given.get("from", ""),
                                     limit=int(given.get("limit", "50")))  # fmt: skip

        return do

    def agreed(self, name: str) -> Do:
        """What was agreed, or handed back, between two moments."""

        def do(request: Request, world: str, _: Any) -> Json:
            given = request.query_params
            after, limit = int(given.get("from", "0")), int(given.get("limit", "100"))
            return self.stall.agreed(
                world, name, given["agreed_from"], given["agreed_before"], after=after, limit=limit
            )

        return do

    def one(self, name: str) -> Do:
        """One entry by its number."""
        return lambda request, world, _: self.stall.one(world, name, request.path_params["number"])

    def items(self, request: Request, world: str, _: Any) -> Json:
        """The items of a sale."""
        start = int(request.query_params.get("from", "0"))
        return self.stall.items(world, request.path_params["number"], start)

    def report(self, request: Request, world: str, _: Any) -> Response:
        """A report of settlements, as a file."""
        text = self.stall.report(world, request.path_params["report"])
        return Response(text, media_type="text/tab-separated-values; charset=utf-8")

    def note(self, request: Request, world: str, body: Any) -> Json:
        """A note of the seller."""
        return self.stall.note(world, int(request.path_params["key"]), body["text"])

    def parcel(self, request: Request, world: str, body: Any) -> Json:
        """A parcel."""
        return self.stall.parcel(world, int(request.path_params["key"]), body)


async def _form(request: Request) -> Json:
    return dict(parse_qsl((await request.body()).decode()))


def _error(status: int, said: str) -> Response:
    return JSONResponse({"error": said}, status)


def _back(asked: Json, **said: str) -> Response:
    query = urlencode({**said, "state": asked.get("state", "")})
    return RedirectResponse(f"{asked['redirect_uri']}?{query}", 303)


def _consent(name: str, scopes: list[str]) -> str:
    boxes = "".join(
        f"<p><label><input type=checkbox name={scope} checked> {escape(SCOPES[scope])}</label>" for scope in scopes
    )
    return (
        "<!doctype html><html lang=en><meta charset=utf-8><title>Lanternfair: let an application in</title>"
        "<style>body{font:16px/1.6 serif;margin:3rem auto;max-width:34rem}"
        "button{font:inherit;padding:.3rem 1rem}</style>"
        f"<h1>Lanternfair</h1><p>Inkwell Bridge asks to act for {escape(name)}. It wants to:"
        f"<form method=post>{boxes}<p><button name=answer value=allow>Allow</button> "
        "<button name=answer value=refuse>Refuse</button></form></html>"
    )


def application(store: Store) -> Starlette:
    """The marketplace as an ASGI application; each first part of a path is a seller of its own."""
    market = Marketplace(store)

    def route(path: str, call: str, scope: str, do: Do, method: str = "GET") -> Route:
        async def endpoint(request: Request) -> Response:
            return await market.answer(request, call, scope, do)

        return Route(f"/{{world}}/v1{path}", endpoint, methods=[method])

    return Starlette(
        routes=[
            Route("/{world}/oauth/page", market.page, methods=["GET", "POST"]),
            Route("/{world}/oauth/token", market.token, methods=["POST"]),
            route("/stand", "stand", "", market.stand),
            route("/stand/words", "words", "", market.words),
            *(route(f"/{name}", name, scope, market.listed(name)) for name, scope in READING.items()),
            *(route(f"/{name}/{{number}}", KINDS[name], scope, market.one(name)) for name, scope in READING.items()),
            *(route(f"/by-day/{name}", f"by-day.{name}", READING[name], market.agreed(name)) for name in PERIODS),
            route("/reports/{report}", "report", "sales", market.report),
            route("/sales/{number}/items", "items", "sales", market.items),
            route("/sales/keys/{key}/seller-notes", "sales.note", "sales.write", market.note, "PUT"),
            route("/sales/keys/{key}/parcels", "sales.parcel", "sales.write", market.parcel, "PUT"),
            after_sale_route(MarketAfterSale(market.stall, market.hooks.tell)),
            *control_routes(store, market.misbehaviour, market.load, market.look),
        ]
    )
