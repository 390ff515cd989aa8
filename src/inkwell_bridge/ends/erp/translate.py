"""Between our words and the ERP's."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from inkwell_bridge.core.books import Contact, Held, Invoice, InvoiceLine, LineKind, Reference, Standing
from inkwell_bridge.core.commerce import Address

Json = Mapping[str, Any]

_STANDING = {"draft": Standing.DRAFT, "posted": Standing.POSTED, "void": Standing.VOID}


def reference(company: Json, accounts: Sequence[Json], tax_codes: Sequence[Json], codes: Sequence[str]) -> Reference:
    """The ERP's chart, tax codes and contact codes as a rulebook names them."""
    return Reference.read(
        {
            "company": company["name"],
            "currency": company["currency"],
            "accounts": [{name: account[name] for name in ("code", "name", "type")} for account in accounts],
            "tax_codes": [
                {"code": tax["code"], "name": tax["name"], "rate_percent": tax["rate"], "outside": tax["outside"]}
                for tax in tax_codes
            ],
            "contacts": list(codes),
        }
    )


def contact(wanted: Contact) -> dict[str, Any]:
    """A contact as the ERP makes it; one without a name goes by its e-mail."""
    return {
        "code": "",
        "name": wanted.company or wanted.name or wanted.email,
        "person": wanted.name,
        "email": wanted.email,
        "phone": wanted.phone,
        "tax_number": wanted.tax_number,
        "billing": _address(wanted.billing),
        "delivery": _address(wanted.delivery),
    }


def _address(address: Address | None) -> dict[str, Any] | None:
    return address.as_json() if address else None


def invoice(planned: Invoice, contact_id: str) -> dict[str, Any]:
    """A planned invoice as the ERP takes it."""
    return {
        "contact": int(contact_id),
        "date": planned.date.isoformat(),
        "currency": planned.currency,
        "reference": planned.mark,
        "order": planned.order_number,
        "link": planned.link,
        "lines": [line(part) for part in planned.lines],
    }


def line(planned: InvoiceLine) -> dict[str, str]:
    """A line; its note tells what it is and which line of the order it came from."""
    return {
        "text": planned.text,
        "note": f"{planned.kind}:{planned.mark}",
        "account": planned.account,
        "quantity": f"{planned.quantity:f}",
        "unit_price": f"{planned.unit_price:f}",
        "tax_code": planned.tax_code,
    }


def held(found: Json) -> Held:
    """An invoice read back, with the ERP's own totals."""
    return Held.read(
        {
            "id": str(found["id"]),
            "number": found["number"],
            "standing": _STANDING[found["state"]],
            "contact_id": str(found["contact"]),
            "net": found["net"],
            "tax": found["tax"],
            "gross": found["gross"],
            "invoice": {
                "mark": found["reference"],
                "date": found["date"],
                "order_number": found["order"],
                "link": found["link"],
                "currency": found["currency"],
                "lines": [_held_line(part) for part in found["lines"]],
            },
        }
    )


def _held_line(part: Json) -> dict[str, Any]:
    kind, _, mark = part["note"].partition(":")
    return {
        "kind": kind if kind in set(LineKind) else LineKind.GOODS,
        "mark": mark or "added in the books",
        "text": part["text"],
        "account": part["account"],
        "quantity": part["quantity"],
        "unit_price": part["unit_price"],
        "net": part["net"],
        "tax": part["tax"],
        "tax_code": part["tax_code"],
    }
