"""What every stand-in offers besides its dialect: loading a world, misbehaving, and a plain page to look at."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from html import escape
from typing import Any

from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.misbehaviour import Misbehaviour, rules_from
from inkwell_bridge.standins.store import Store

Load = Callable[[str, dict[str, Any]], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """One table of the page."""

    title: str
    heads: list[str]
    rows: list[list[str]]


Look = Callable[[str], tuple[str, list[Table]]]


def control_routes(store: Store, misbehaviour: Misbehaviour, load: Load, look: Look) -> list[Route]:
    """Routes under ``/{world}``: GET and PUT of control/contents and control/misbehaviour, and the page."""

    async def contents(request: Request) -> Response:
        if request.method == "GET":
            return JSONResponse(store.contents(request.path_params["world"]))
        load(request.path_params["world"], await request.json())
        return Response(status_code=204)

    async def rules(request: Request) -> Response:
        world = request.path_params["world"]
        if request.method == "PUT":
            try:
                misbehaviour.set_rules(world, await rules_from(request))
            except (TypeError, ValueError, KeyError) as error:
                return JSONResponse({"error": str(error)}, 400)
        return JSONResponse({"rules": misbehaviour.report(world)})

    async def one(request: Request) -> Response:
        world, kind, number = (request.path_params[name] for name in ("world", "kind", "number"))
        found = store.get(world, kind, number) if kind not in HIDDEN else None
        title, _ = look(world)
        return HTMLResponse(_document(title, kind, found), 200 if found else 404)

    async def page(request: Request) -> Response:
        return HTMLResponse(_page(*look(request.path_params["world"])))

    return [
        Route("/{world}/control/contents", contents, methods=["GET", "PUT"]),
        Route("/{world}/control/misbehaviour", rules, methods=["GET", "PUT"]),
        Route("/{world}/", page),
        Route("/{world}/{kind}/{number:int}", one, methods=["GET"]),
    ]


def page_of(world: str, kind: str, number: int) -> str:
    """Where a document has a page of its own."""
    return f"/{world}/{kind}/{number}"


# What opens the system, and what is no document.
HIDDEN = frozenset({"shop", "company", "session", "hook", "token", "grant", "key"})


def _document(title: str, kind: str, found: dict[str, Any] | None) -> str:
    name = kind.replace("_", " ").replace("-", " ").capitalize()
    if found is None:
        rows = [["There is no such document here.", ""]]
    else:
        rows = [[one, value if isinstance(value, str) else json.dumps(value, indent=1)] for one, value in found.items()]
    number = (found or {}).get("number") or (found or {}).get("reference") or ""
    table = Table(title=f"{name} {number}".strip(), heads=["Field", "Value"], rows=rows)
    return _page(title, [table])


def _page(title: str, tables: list[Table]) -> str:
    count = sum(len(table.rows) for table in tables)
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{escape(title)}</title>"
        "<style>body{font:15px/1.5 serif;margin:2rem;max-width:70rem}table{border-collapse:collapse;width:100%}"
        "td,th{border-bottom:1px solid #ccc;padding:.25rem .75rem .25rem 0;text-align:left}"
        "caption{text-align:left;font-weight:bold;padding-top:1rem}</style>"
        f"<h1>{escape(title)}</h1><p>A simulated system with {count} entries.</p>"
        f"{''.join(_table(table) for table in tables)}</html>"
    )


def _table(table: Table) -> str:
    head = "".join(f"<th scope=col>{escape(name)}</th>" for name in table.heads)
    body = "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in table.rows)
    caption = f"<caption>{escape(table.title)}: {len(table.rows)}</caption>"
    return f"<table>{caption}<thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>"
