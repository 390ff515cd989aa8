"""The whole example without anyone there: read, carried, left out, held, and both sides' totals."""

from __future__ import annotations

import time
from decimal import Decimal
from typing import Any

import httpx

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.client.models import Run
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

TIMEOUT_SECONDS = 120.0
EMAIL = "owner@inkwell.example"


def whole_example(stack: Stack, say: Any) -> dict[str, Any]:
    """Set the client up, run twice, and gather every figure that the demo data says something about."""
    slug = facts()["workspace"]["slug"]
    demo_client.fill_standins(stack)
    token = demo_client.open_workspace(stack, "a-password-for-one-run", workspace=slug, email=EMAIL)
    calls = Client(stack.address, token=token).workspace(slug)
    demo_client.set_up(stack, calls)
    say("Carrying October from the web shop to the books.")
    first = _ended(calls, calls.bridge(facts()["bridge"]["slug"]).run())
    say("Running once more: nothing may be made twice.")
    second = _ended(calls, calls.bridge(facts()["bridge"]["slug"]).run())
    return _figures(calls, first, second) | {"in_the_books": _books(stack)}


def _ended(calls: WorkspaceCalls, run: Run) -> Run:
    deadline = time.monotonic() + TIMEOUT_SECONDS
    while run.under_way:
        if time.monotonic() > deadline:
            raise TimeoutError(f"run {run.id} did not end in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.2)
        run = calls.run(run.id)
    return calls.run(run.id)


def _figures(calls: WorkspaceCalls, first: Run, second: Run) -> dict[str, Any]:
    sides = next(iter(first.totals), None)
    period = next(iter(calls.tie_out(bridge=first.bridge).totals), None)
    crossings = list(calls.crossings())
    carried = [crossing for crossing in crossings if crossing.state == "carried"]
    rounded = [document for crossing in carried for document in crossing.documents if document.difference]
    return {
        "read": first.counts.read,
        "carried": first.counts.carried,
        "held": first.counts.held,
        "left_out": first.counts.left_out,
        "differs": first.counts.differs,
        "waiting": first.counts.waiting,
        "source": _side(sides and sides.source),
        "books": _side(sides and sides.books),
        "unexplained": _side(period and period.unexplained),
        "holds": {hold.cause: hold.count for hold in calls.today().holds},
        "rounding": {
            "documents": len(rounded),
            "amount": str(sum((document.difference or Decimal(0) for document in rounded), Decimal(0))),
        },
        "second_run": {"carried": second.counts.carried, "held": second.counts.held},
        "states": {crossing.number: crossing.state for crossing in crossings},
        "odd": {crossing.number: _odd(crossing) for crossing in carried},
    }


def _side(totals: Any) -> dict[str, Any]:
    if totals is None:
        return {}
    return {"count": totals.count, "net": str(totals.net), "tax": str(totals.tax), "gross": str(totals.gross)}


def _odd(crossing: Any) -> dict[str, str]:
    document = crossing.documents[0]
    return {
        "net": str(document.net),
        "tax": str(document.tax),
        "gross": str(document.gross),
        "rounding": str(document.difference),
    }


def _books(stack: Stack) -> dict[str, Any]:
    """What the books hold by their own account, asked past the service."""
    contents = httpx.get(f"{stack.erp}/{demo_client.WORLD}/control/contents").json()
    invoices = [invoice for invoice in contents["invoice"] if invoice["state"] != "void"]
    return {
        "invoices": len(invoices),
        "posted": sum(invoice["state"] == "posted" for invoice in invoices),
        "contacts": len(contents["contact"]),
        "different_references": len({one["reference"] for one in invoices}),
        **{
            name: str(sum((Decimal(invoice[name]) for invoice in invoices), Decimal(0)))
            for name in ("net", "tax", "gross")
        },
    }


def differences(found: dict[str, Any], expected: dict[str, Any], path: str = "") -> list[str]:
    """Every figure that is not as the demo data says."""
    wrong = []
    for name, value in expected.items():
        met = found.get(name) if isinstance(found, dict) else None
        at = f"{path}{name}"
        if isinstance(value, dict):
            wrong += differences(met or {}, value, f"{at}.")
        elif met != value:
            wrong.append(f"{at}: expected {value}, found {met}")
    return wrong
