"""Invoices that Marrowby's office typed into the UK books, as the ERP's screen takes them."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.demo.facts import facts

Json = dict[str, Any]


def invoices() -> list[Json]:
    """One line each, at the standard rate, with the field that says how it is to be paid."""
    return [_invoice(one) for one in facts()["office_invoices"]]


def _invoice(told: Json) -> Json:
    line = {"text": "Yarn for the shop", "note": "", "account": "4000", "quantity": "1", "unit_price": told["net"],
            "tax_code": "S20"}  # fmt: skip
    return {
        **{name: told[name] for name in ("number", "date", "due")},
        "code": told["contact"],
        "currency": "GBP", "reference": "", "order": "", "link": "", "memo": "",
        "further": {"payment": told["payment"]}, "lines": [line],
    }  # fmt: skip


def wallets(contacts: list[Json]) -> list[Json]:
    """Who has something on file at Weirgate, by the books' own ids of them: the last of the shops."""
    on_file = {one["contact"] for one in facts()["office_invoices"] if one["payment"] == "on file"}
    return [{"who": str(one["id"])} for one in contacts if one.get("code") in on_file]
