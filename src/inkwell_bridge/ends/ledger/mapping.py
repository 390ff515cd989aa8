"""The ledger's JSON words, for all that is not UBL."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import (
    BooksDocument,
    Contact,
    Item,
    Journal,
    JournalLine,
    MasterData,
    Particular,
    Payment,
)
from inkwell_bridge.core.commerce import Address
from inkwell_bridge.ends.ledger.ubl import Category

Json = Mapping[str, Any]


def reference(said: Json) -> MasterData:
    """What the ledger calls things."""
    return MasterData.read(
        {
            "company": said["name"],
            "currency": said["currency"],
            "accounts": [{name: one[name] for name in ("code", "name", "type")} for one in said["accounts"]],
            "tax_codes": [
                {"code": one["code"], "name": one["name"], "rate_percent": one["percent"],
                 "outside": one["category"] == "O"}
                for one in said["taxes"]
            ],
            "terms": [{"code": one["code"], "name": one["name"]} for one in said["terms"]],
            "dimensions": [
                {"name": one["name"], "values": [{"code": value} for value in one["values"]]}
                for one in said["dimensions"]
            ],
            "currencies": said["currencies"],
            "locked_until": said["closed_until"] or None,
        }
    )  # fmt: skip


def categories(said: Json) -> dict[str, Category]:
    """Each tax code's place in UBL."""
    return {one["code"]: Category(id=one["category"], rate_percent=Decimal(one["percent"])) for one in said["taxes"]}


def contact(wanted: Contact) -> dict[str, Any]:
    """A contact as the ledger makes it."""
    return {
        "name": wanted.company or wanted.name or wanted.email,
        "person": wanted.name,
        "email": wanted.email,
        "phone": wanted.phone,
        "vat": wanted.tax_number,
        "language": wanted.language,
        "group": wanted.group,
        "terms": wanted.terms,
        "invoice_to": _address(wanted.billing),
        "deliver_to": _address(wanted.delivery),
    }


PLACES: dict[Particular, tuple[str, ...]] = {
    "name": ("name", "person"),
    "email": ("email",),
    "phone": ("phone",),
    "tax number": ("vat",),
    "language": ("language",),
    "group": ("group",),
    "terms": ("terms",),
    "billing": ("invoice_to",),
    "delivery": ("deliver_to",),
}


def _address(address: Address | None) -> dict[str, Any] | None:
    return address.as_json() if address else None


def contact_read(said: Json) -> Contact:
    """A contact that the ledger has."""
    return Contact.read(
        {
            "email": str(said.get("email") or "").strip().lower(),
            "name": said["name"],
            "tax_number": said.get("vat") or "",
            **{name: said.get(name) or "" for name in ("phone", "language", "group", "terms")},
            "billing": said.get("invoice_to"),
            "delivery": said.get("deliver_to"),
        }
    )


def item_read(said: Json) -> Item:
    """An item that the ledger has."""
    given = {"code": said["code"], "name": said["name"], "price": said.get("price"), "stocked": False}
    return Item.read({**given, "tax_code": said.get("tax") or "", "account": said.get("account") or ""})


def item(wanted: Item) -> dict[str, Any]:
    """An item as the ledger makes it: a text with a price."""
    return {
        "code": wanted.code,
        "name": wanted.name,
        "price": None if wanted.price is None else f"{wanted.price:f}",
        "tax": wanted.tax_code,
        "account": wanted.account,
    }


def payment(document: BooksDocument) -> dict[str, Any]:
    """Money in or out."""
    assert isinstance(document, Payment)
    return {
        "reference": document.external_reference,
        "day": document.date.isoformat(),
        "account": document.account,
        "currency": document.currency,
        "sum": f"{document.amount:f}",
        "transaction": document.transaction,
        "order": document.order_number,
        "text": document.text,
        "against": [{"reference": part.external_reference, "sum": f"{part.amount:f}"} for part in document.applied],
        "rate": None if document.rate is None else f"{document.rate:f}",
    }


def payment_read(found: Json) -> dict[str, Any]:
    """Money read back."""
    return {
        "external_reference": found["reference"],
        "date": found["day"],
        "account": found["account"],
        "currency": found["currency"],
        "amount": found["sum"],
        "transaction": found["transaction"],
        "order_number": found["order"],
        "text": found["text"],
        "applied": [{"external_reference": part["reference"], "amount": part["sum"]} for part in found["against"]],
        "rate": found["rate"],
    }


def journal(document: BooksDocument) -> dict[str, Any]:
    """A journal; a debit is positive."""
    assert isinstance(document, Journal)
    return {
        "reference": document.external_reference,
        "day": document.date.isoformat(),
        "currency": document.currency,
        "text": document.text,
        "order": document.order_number,
        "page": document.link,
        "rows": [_journal_row(line) for line in document.lines],
    }


def _journal_row(line: JournalLine) -> dict[str, Any]:
    return {
        "account": line.account,
        "text": line.text,
        "own": f"{line.base:f}",
        "currency": line.currency,
        "sum": f"{line.amount:f}",
        "rate": f"{line.rate:f}",
        "rate_by": line.rate_from,
        "tax": line.tax_code,
        "note": line.line_reference,
        "dimensions": {dimension.name: dimension.value for dimension in line.dimensions},
    }


def journal_read(found: Json) -> dict[str, Any]:
    """A journal read back."""
    return {
        "external_reference": found["reference"],
        "date": found["day"],
        "currency": found["currency"],
        "text": found["text"],
        "order_number": found["order"],
        "link": found["page"],
        "lines": [
            {
                "account": row["account"],
                "text": row["text"],
                "base": row["own"],
                "currency": row["currency"],
                "amount": row["sum"],
                "rate": row["rate"],
                "rate_from": row["rate_by"],
                "tax_code": row["tax"],
                "line_reference": row["note"],
                "dimensions": [{"name": name, "value": value} for name, value in row["dimensions"].items()],
            }
            for row in found["rows"]
        ],
    }
