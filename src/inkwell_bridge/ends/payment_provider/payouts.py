"""A provider's payout in our words: its kinds of entry, and whole minor units as amounts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.ends.minor_units import Minor

# What the provider calls each kind.
KINDS = {
    "charge": EntryKind.CHARGE,
    "payback": EntryKind.REFUND,
    "fee": EntryKind.FEE,
    "dispute": EntryKind.CHARGEBACK,
    "dispute won": EntryKind.CHARGEBACK_REVERSED,
    "set aside": EntryKind.RESERVE_KEPT,
    "set free": EntryKind.RESERVE_RELEASED,
    "exchange": EntryKind.CONVERSION,
    "put right": EntryKind.CORRECTION,
    "plan": EntryKind.SUBSCRIPTION,
    "from before": EntryKind.CARRIED_OVER,
    "to next": EntryKind.CARRIED_OVER,
}


def payout_of(said: Mapping[str, Any]) -> dict[str, Any]:
    """A payout as ``Payout`` reads it."""
    currency, entries = said["money"], said["entries"]
    if entries is None:
        raise ValueError(f"the entries of {said['payout']}, or has more of them than any payout")
    minor = Minor(currency)
    return {
        "id": said["payout"],
        "number": said["payout"],
        "provider": said.get("by", ""),
        "paid_at": said["made"],
        "changed_at": said["altered"],
        "arrives_on": said.get("lands"),
        "bank_reference": said.get("statement_text", ""),
        "currency": currency,
        "total": minor(said["minor"]),
        "entries": [entry_of(entry, minor) for entry in entries],
    }


def entry_of(said: Mapping[str, Any], minor: Minor) -> dict[str, Any]:
    kind = KINDS.get(said["does"], EntryKind.UNKNOWN)
    return {
        "id": said["entry"],
        "kind": str(kind),
        "called": said["does"] if kind is EntryKind.UNKNOWN else "",
        "transaction": said.get("about") or "",
        "order_number": said.get("shop_ref") or "",
        "text": said.get("says") or "",
        "occurred_at": said["when"],
        "amount": minor(said["minor"]),
        "fee": minor(said.get("fee", 0)),
        "fee_tax": minor(said.get("fee_tax", 0)),
        "net": minor(said["left"]),
    }
