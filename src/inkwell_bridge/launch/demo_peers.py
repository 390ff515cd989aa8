"""The demo with two real systems at its ends: Vendure sells, Tryton keeps the books."""

from __future__ import annotations

import json
import os
from decimal import Decimal
from pathlib import Path
from typing import Any

from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.ends.http import Limits
from inkwell_bridge.ends.shapes import Opening
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.launch import places

Json = dict[str, Any]
# Each connection by its entry in the facts, which is also its kind of end.
ENDS = ("vendure", "tryton")


def addresses() -> dict[str, str]:
    """Where the two systems are, by kind of end.

    Raises:
        RuntimeError: they are not running.
    """
    home = Path(os.environ.get("INKWELL_PEERS_HOME", places.root() / ".inkwell" / "peers"))
    told = home / "running.json"
    if not told.exists():
        raise RuntimeError("Tryton and Vendure are not running. Start them with: ./inkwell peers start")
    said = json.loads(told.read_text("utf-8"))
    return {
        "vendure": f"{said['vendure']['address']}/admin-api",
        "tryton": f"{said['tryton']['address']}{said['tryton_database']}/",
    }


def credentials(kind: str) -> dict[str, str]:
    """What we sign in with."""
    return {name: facts()[kind][name] for name in ("user", "password")}


def set_up(calls: WorkspaceCalls, where: dict[str, str]) -> None:
    """The UK company, both connections, and the bridge between them with its rules."""
    calls.create_company(**facts()["company"])
    for kind in ENDS:
        entries = facts()[kind]
        calls.create_connection(
            slug=entries["slug"],
            name=entries["name"],
            kind=kind,
            company=facts()["company"]["slug"],
            address=where[kind],
            credentials=credentials(kind),
        )
    calls.connection(facts()["tryton"]["slug"]).load_reference()
    bridge = facts()["peers_bridge"]
    calls.create_bridge(
        **bridge,
        source=facts()["vendure"]["slug"],
        books=facts()["tryton"]["slug"],
        company=facts()["company"]["slug"],
    )
    rules = calls.bridge(bridge["slug"])
    rules.publish_rulebook(rules.write_rulebook(rulebook_text(bridge["slug"])).number)
    rules.switch_lane("orders", on=True)


def point_at(calls: WorkspaceCalls, where: dict[str, str]) -> None:
    """Point the connections at where the two systems are this time."""
    known = {connection.slug: connection.address for connection in calls.connections()}
    for kind in ENDS:
        slug = facts()[kind]["slug"]
        if known.get(slug) != where[kind]:
            calls.connection(slug).change(address=where[kind])


def in_tryton(address: str) -> Json:
    """What Tryton holds under our marks by its own account, asked past the service."""
    rpc = TrytonRpc(Opening(address=address, credentials=credentials("tryton"), limits=Limits(timeout_seconds=60)))
    ours = [["reference", "like", "INK:%"], ["type", "=", "out"], ["state", "!=", "cancelled"]]
    fields = ["reference", "state", "untaxed_amount", "tax_amount", "total_amount"]
    found = rpc.search("account.invoice", ours, fields)
    posted = [invoice for invoice in found if invoice["state"] in {"posted", "paid"}]
    sums = {"net": "untaxed_amount", "tax": "tax_amount", "gross": "total_amount"}
    return {
        "posted": len(posted),
        "drafts": len(found) - len(posted),
        "different_references": len({invoice["reference"] for invoice in posted}),
        "contacts": rpc.read("model.party.party.search_count", []),
        **{ours: str(sum((invoice[theirs] for invoice in posted), Decimal(0))) for ours, theirs in sums.items()},
    }
