"""A provider's charge in our words: how far it has come, and which way the money went."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.core.commerce import MoneyState, Tender
from inkwell_bridge.ends.minor_units import Minor

_STATES = {"reserved": MoneyState.AUTHORISED, "taken": MoneyState.RECEIVED, "let go": MoneyState.CANCELLED,
           "failed": MoneyState.FAILED}  # fmt: skip
_TENDERS = {"card": Tender.CARD, "wallet": Tender.WALLET, "bank": Tender.BANK_TRANSFER, "later": Tender.PAY_LATER}


def charge_of(said: Mapping[str, Any]) -> dict[str, Any]:
    """A charge as ``ProviderCharge`` reads it."""
    return {
        "id": said["charge"],
        "number": said["charge"],
        "transaction": said["charge"],
        "order_number": said.get("shop_ref") or "",
        "gives_back": {"take": False, "give back": True}[said["does"]],
        "method": said.get("how") or "",
        "tender": str(_TENDERS.get(said.get("how") or "", Tender.OTHER)),
        "brand": said.get("brand") or "",
        "currency": said["money"],
        "amount": Minor(said["money"])(said["minor"]),
        # A state that is new to us may be no money at all, so the charge is held and not guessed at.
        "state": str(_STATES[said["state"]]),
        "occurred_at": said["when"],
        "changed_at": said["altered"],
    }
