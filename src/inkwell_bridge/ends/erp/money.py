"""Payments and journals, in the ERP's words and back."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import JournalLine
from inkwell_bridge.ends.erp.mapping import Json
from inkwell_bridge.ends.fields import Split, amount, as_it_is, day, group, rows, table
from inkwell_bridge.ends.pages import page_at

# What some money is set against: a document under our reference, or an invoice of theirs by its id.
_SET_AGAINST = table(
    *as_it_is(external_reference="reference"),
    Split(
        lambda part: {"invoice": int(part.invoice_id)} if part.invoice_id else {},
        lambda said: {"invoice_id": str(said.get("invoice") or "")},
    ),
    amount("amount", "amount"),
)
# Money from a customer, or back to one.
PAYMENT = table(
    *as_it_is(external_reference="reference", currency="currency", account="account", transaction="transaction"),
    *as_it_is(order_number="order", text="memo"),
    day("date", "date"),
    amount("amount", "amount"),
    rows("applied", "settles", _SET_AGAINST),
    amount("rate", "rate"),
    *as_it_is(rate_from="rate_by"),
    amount("base", "base"),
    group("exchange_difference", "exchange", table(*as_it_is(account="account"), amount("amount", "amount"))),
)
# A small balance that is given up: no money moves.
WRITE_OFF = table(
    *as_it_is(
        external_reference="reference", currency="currency", account="account", order_number="order", text="memo"
    ),
    *as_it_is(owed_by="owed_by", rate_from="rate_by"),
    day("date", "date"),
    amount("amount", "amount"),
    amount("rate", "rate"),
    rows("applied", "settles", _SET_AGAINST),
)


def _debit_or_credit(line: JournalLine) -> dict[str, Any]:
    return {"debit": f"{max(line.base, Decimal(0)):f}", "credit": f"{max(-line.base, Decimal(0)):f}"}


def _base(said: Json) -> dict[str, Any]:
    return {"base": str(Decimal(said["debit"]) - Decimal(said["credit"]))}


# The ERP has debits and credits in columns of their own.
JOURNAL = table(
    *as_it_is(external_reference="reference", currency="currency", text="memo", order_number="order", link="link"),
    day("date", "date"),
    rows(
        "lines",
        "lines",
        table(
            *as_it_is(account="account", text="text", line_reference="note", currency="currency"),
            *as_it_is(rate_from="rate_from", tax_code="tax_code"),
            Split(_debit_or_credit, _base),
            amount("amount", "amount"),
            amount("rate", "rate"),
        ),
    ),
)


def received(found: Json) -> dict[str, Any]:
    """A posted receipt, as a source document for the shop to be told of."""
    return {
        "id": str(found["id"]),
        "number": found["number"],
        "order_number": found.get("order") or "",
        "received_at": f"{found['date']}T12:00:00+00:00",
        "changed_at": found["changed"],
        "currency": found["currency"],
        "account": found["account"],
        "text": found.get("memo") or "",
        "amount": found["amount"],
        "settles": [{"external_reference": part["reference"], "amount": part["amount"]} for part in found["settles"]],
    }


def invoiced(found: Json, address: str) -> dict[str, Any]:
    """A posted invoice of the ERP at ``address``, as a source document for its buyer to be asked for money."""
    return {
        "id": str(found["id"]),
        "number": found["number"],
        "external_reference": found["reference"] or "",
        "order_number": found["order"] or "",
        "state": "posted" if found["state"] == "posted" else "cancelled",
        "issued_on": found["date"],
        "due_on": found["due"] or None,
        "changed_at": found["changed"],
        "contact_id": str(found["contact"]),
        "customer": {"name": found["name"], "email": found["email"]},
        "currency": found["currency"],
        "total": found["gross"],
        "open": found["open"],
        "fields": [{"name": name, "value": str(value)} for name, value in found["further"].items()],
        # What bears no reference was set against it by hand there.
        "settled": [{"external_reference": part["reference"], "amount": part["amount"]}
                    for part in found["settled_by"] if part["reference"]],
        "link": page_at(address, found["page"]),
    }  # fmt: skip


def entry(found: Json) -> dict[str, Any]:
    """An entry of an account, whoever entered it."""
    return {
        "id": str(found["id"]),
        "family": found["family"],
        "number": found["number"],
        "date": found["date"],
        "external_reference": found["reference"] or "",
        "text": found["memo"],
        "amount": _base(found)["base"],
    }


def payment_totals(found: Json) -> dict[str, Any]:
    """A payment's one amount."""
    return {"gross": found["amount"]}


def no_totals(found: Json) -> dict[str, Any]:
    """For what has no total of its own."""
    return {}
