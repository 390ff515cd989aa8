"""The web shop's words for things that we have words of our own for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

Json = Mapping[str, Any]

MEASURES = {"piece": "C62", "kilogram": "KGM", "gram": "GRM", "hour": "HUR"}
NATURES = {"article": "goods", "download": "digital", "service": "service", "gift card": "gift card",
           "voucher": "voucher", "down payment": "deposit"}  # fmt: skip
TENDERS = {"card": "card", "bank": "bank transfer", "mandate": "direct debit", "wallet": "wallet", "cash": "cash",
           "on delivery": "cash on delivery", "gift card": "gift card", "voucher": "voucher", "account": "on account",
           "later": "pay later"}  # fmt: skip
MONEY_STATES = {"pending": "promised", "reserved": "authorised", "in": "received", "failed": "failed",
                "released": "cancelled"}  # fmt: skip
DONE = {"edited": "edited", "cancelled": "cancelled", "reopened": "reopened", "sent": "dispatched"}


def moment(text: Any) -> datetime | None:
    """A moment as the shop writes it; nothing where it writes nothing."""
    return datetime.fromisoformat(text) if text else None


def tax_lines(tax: Json) -> list[dict[str, Any]]:
    """The taxes of a charge: one, or its parts where a class holds several."""
    # A class of one tax names itself; one of several names each, and where it is due.
    parts: Sequence[Json] = tax.get("parts") or [{"name": tax["class"], **tax}]
    return [
        {
            "name": part.get("name", tax["class"]),
            "jurisdiction": part.get("area", ""),
            "rate_percent": part["percent"],
            "amount": part["sum"],
            "kept": part.get("kept", False),
        }
        for part in parts
    ]


def charge(part: Json, *, identity: str) -> dict[str, Any]:
    """What every charge has in common."""
    return {
        "id": identity,
        "title": part["title"],
        "amount": part["sum"],
        "discount": part.get("reduction", "0.00"),
        "tax_class": part["tax"]["class"],
        "taxes": tax_lines(part["tax"]),
    }


def properties(fields: Json | None) -> list[dict[str, Any]]:
    """Named properties."""
    return [{"name": name, "value": str(value)} for name, value in (fields or {}).items()]


def conversion(settled: Json | None) -> dict[str, Any] | None:
    """The same money in the currency the shop is paid in."""
    if not settled:
        return None
    return {
        "currency": settled["currency"],
        "amount": settled["sum"],
        "rate": settled["rate"],
        "source": settled.get("by", ""),
        "at": moment(settled.get("when")),
    }


def payment(money: Json) -> dict[str, Any]:
    """Money that moved."""
    return {
        "transaction": money["transaction"],
        "method": money["by"],
        # A way of paying that is new to us is still money; which account it goes to is for the rules to say.
        "tender": TENDERS.get(money.get("with", ""), "other"),
        "brand": money.get("brand", ""),
        "gateway": money.get("gateway", ""),
        "voucher": money.get("voucher", ""),
        "amount": money["sum"],
        # A state that is new to us may be no money at all, so the order is held and not guessed at.
        "state": MONEY_STATES[money.get("state", "in")],
        "paid_at": moment(money.get("when")),
        "settled": conversion(money.get("settled")),
    }


def lots(rows: Sequence[Json] | None) -> list[dict[str, Any]]:
    """Quantities by lot."""
    return [{"code": row["lot"], "quantity": row["count"]} for row in rows or ()]


def components(rows: Sequence[Json] | None) -> list[dict[str, Any]]:
    """What a kit is made of."""
    return [
        {
            "sku": row["article"],
            "title": row.get("title", ""),
            "quantity": row["count"],
            "share": row.get("part"),
            "tax_class": row.get("class", ""),
        }
        for row in rows or ()
    ]
