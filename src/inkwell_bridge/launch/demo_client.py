"""Setting the demo's client up, through the same client library that anyone would use."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import httpx

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.october import october
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service import clock

WORLD = "marrowby"
# What of the books' facts stands in lists of its own.
LISTS = frozenset({"accounts", "tax_codes", "contacts", "warehouses", "terms", "periods", "taxes", "dimensions"})


def fill_standins(stack: Stack, *, world: str = WORLD) -> None:
    """Put the shop's October and the charts of all books into the stand-ins."""
    _tell(stack.shop, world, {"reset": True, "shop": facts()["web_shop"], "orders": october()})
    for kind, end in (("erp", "books"), ("ledger", "irish_books"), ("contact-list", "contact_list")):
        entries = facts()[end]
        company = {name: value for name, value in entries.items() if name not in LISTS}
        lists = {name: value for name, value in entries.items() if name in LISTS}
        _tell(stack.standin(kind), world, {"reset": True, "company": company, **lists})


def _tell(address: str, world: str, contents: dict[str, Any]) -> None:
    httpx.put(f"{address}/{world}/control/contents", json=contents, verify=False).raise_for_status()  # noqa: S501 plain HTTP


def set_clock(stack: Stack) -> None:
    """Let the demo's clock go on from the end of its October."""
    clock.set_file(stack.home / "clock", datetime.fromisoformat(facts()["clock"]))


def open_workspace(stack: Stack, password: str, *, workspace: str, email: str) -> str:
    """Open a workspace with its first owner; answers a token of that owner."""
    name = facts()["workspace"]["name"]
    stack.administer(
        "open_workspace",
        workspace,
        "--name",
        name,
        "--owner",
        email,
        "--owner-name",
        facts()["people"][0]["name"],
        given=f"{password}\n",
    )
    return Client(stack.address).make_token(email=email, password=password, name="demo")


def set_up(stack: Stack, calls: WorkspaceCalls, *, world: str = WORLD) -> None:
    """Company, connections, bridge and rules, in the order of the work."""
    shop, books, company, bridge = (facts()[name] for name in ("web_shop", "books", "company", "bridge"))
    calls.create_company(**company)
    calls.create_connection(
        slug=shop["slug"],
        name=shop["name"],
        kind="web-shop",
        company=company["slug"],
        address=f"{stack.shop}/{world}/api",
        credentials={"key": shop["key"], "secret": shop["secret"]},
    )
    calls.create_connection(
        slug=books["slug"],
        name=books["name"],
        kind="erp",
        company=company["slug"],
        address=f"{stack.erp}/{world}",
        credentials={"user": books["user"], "password": books["password"]},
    )
    calls.connection(books["slug"]).load_reference()
    calls.create_bridge(**bridge, source=shop["slug"], books=books["slug"], company=company["slug"])
    rules = calls.bridge(bridge["slug"])
    rules.publish_rulebook(rules.write_rulebook(rulebook_text()).number)
    rules.switch_lane("orders", on=True)


def give_roles(calls: WorkspaceCalls, password: str) -> None:
    """The demo's other people."""
    for person in facts()["people"][1:]:
        calls.give_role(email=person["email"], name=person["name"], role=person["role"], password=password)
