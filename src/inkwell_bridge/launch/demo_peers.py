"""The demo with two real systems at its ends: Vendure sells, Tryton keeps the books."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.launch import demo_client, places

Json = dict[str, Any]
# Each connection by its entry in the facts, which is also its kind of end.
ENDS = ("vendure", "tryton")


def addresses() -> dict[str, str]:
    """Where the two systems are, by kind of end.

    Raises:
        RuntimeError: they are not running.
    """
    told = places.peers() / "running.json"
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


def set_up(calls: WorkspaceCalls, where: dict[str, str], *, rules: str = "") -> None:
    """The UK company, both connections, and the bridge between them with its rules; by other ``rules`` orders alone."""
    calls.create_company(**facts()["company"])
    for kind in ENDS:
        demo_client.connect_to(calls, kind, kind=kind, company="company", address=where[kind],
                               credentials=credentials(kind))  # fmt: skip
    demo_client.lay(calls, "peers_bridge", rules=rules)


def in_tryton(address: str) -> Json:
    """What Tryton holds under our marks by its own account, asked past the service."""
    rpc = TrytonRpc(
        Opening(
            address=address, credentials=credentials("tryton"), limits=Limits(timeout_seconds=60), guard=places.LOOPBACK
        )
    )
    ours = [["reference", "like", "INK:%"], ["type", "=", "out"], ["state", "!=", "cancelled"]]
    fields = ["reference", "state", "untaxed_amount", "tax_amount", "total_amount"]
    everything = rpc.search("account.invoice", ours, fields)
    # A credit note is an invoice of negative sums there.
    found = [invoice for invoice in everything if invoice["total_amount"] >= 0]
    posted = [invoice for invoice in found if invoice["state"] in {"posted", "paid"}]
    credited = [invoice for invoice in everything if invoice["total_amount"] < 0]
    sums = {"net": "untaxed_amount", "tax": "tax_amount", "gross": "total_amount"}
    return {
        "posted": len(posted),
        "drafts": len(found) - len(posted),
        "different_references": len({invoice["reference"] for invoice in posted}),
        "credit_notes": {"posted": len(credited), **_summed(credited, sums, sign=-1)},
        "owed": str(_balance(rpc, "1100")),
        "clearing": str(_balance(rpc, "1250")),
        "contacts": rpc.read("model.party.party.search_count", []),
        **_summed(posted, sums),
    }


def _summed(invoices: list[Json], sums: dict[str, str], *, sign: int = 1) -> Json:
    return {ours: str(sum((sign * one[theirs] for one in invoices), Decimal(0))) for ours, theirs in sums.items()}


def _balance(rpc: TrytonRpc, account: str) -> Decimal:
    """What stands on an account in the posted moves."""
    posted = [["move_state", "=", "posted"], ["account.code", "=", account]]
    rows = rpc.search("account.move.line", posted, ["debit", "credit"])
    return sum((row["debit"] - row["credit"] for row in rows), Decimal(0))
