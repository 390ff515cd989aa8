"""Payments and journals, in the ERP's words and back."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import BooksDocument, Journal, JournalLine, Payment
from inkwell_bridge.ends.erp.mapping import Json


def payment_to_words(document: BooksDocument) -> dict[str, Any]:
    """Money from a customer, or back to one."""
    assert isinstance(document, Payment)
    return {
        "reference": document.external_reference,
        "date": document.date.isoformat(),
        "currency": document.currency,
        "account": document.account,
        "amount": f"{document.amount:f}",
        "transaction": document.transaction,
        "order": document.order_number,
        "memo": document.text,
        "settles": [{"reference": part.external_reference, "amount": f"{part.amount:f}"} for part in document.applied],
        "rate": None if document.rate is None else f"{document.rate:f}",
    }


def payment_from_words(found: Json) -> dict[str, Any]:
    """A payment read back."""
    return {
        "external_reference": found["reference"],
        "date": found["date"],
        "currency": found["currency"],
        "account": found["account"],
        "amount": found["amount"],
        "transaction": found["transaction"],
        "order_number": found["order"],
        "text": found["memo"],
        "applied": [{"external_reference": part["reference"], "amount": part["amount"]} for part in found["settles"]],
        "rate": found["rate"],
    }


def payment_totals(found: Json) -> dict[str, Any]:
    """A payment's one amount."""
    return {"gross": found["amount"]}


def journal_to_words(document: BooksDocument) -> dict[str, Any]:
    """A journal; the ERP has debits and credits in columns of their own."""
    assert isinstance(document, Journal)
    return {
        "reference": document.external_reference,
        "date": document.date.isoformat(),
        "currency": document.currency,
        "memo": document.text,
        "order": document.order_number,
        "link": document.link,
        "lines": [_journal_line(line) for line in document.lines],
    }


def _journal_line(line: JournalLine) -> dict[str, Any]:
    return {
        "account": line.account,
        "text": line.text,
        "note": line.line_reference,
        "debit": f"{max(line.base, Decimal(0)):f}",
        "credit": f"{max(-line.base, Decimal(0)):f}",
        "currency": line.currency,
        "amount": f"{line.amount:f}",
        "rate": f"{line.rate:f}",
        "rate_from": line.rate_from,
        "tax_code": line.tax_code,
    }


def journal_from_words(found: Json) -> dict[str, Any]:
    """A journal read back."""
    return {
        "external_reference": found["reference"],
        "date": found["date"],
        "currency": found["currency"],
        "text": found["memo"],
        "order_number": found["order"],
        "link": found["link"],
        "lines": [
            {
                "account": line["account"],
                "text": line["text"],
                "line_reference": line["note"],
                "base": str(Decimal(line["debit"]) - Decimal(line["credit"])),
                "currency": line["currency"],
                "amount": line["amount"],
                "rate": line["rate"],
                "rate_from": line["rate_from"],
                "tax_code": line["tax_code"],
            }
            for line in found["lines"]
        ],
    }


def no_totals(found: Json) -> dict[str, Any]:
    """For what has no total of its own."""
    return {}
