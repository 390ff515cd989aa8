"""Sales orders, invoices and credit notes in Tryton's words and back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import ROUND_HALF_EVEN, Decimal
from typing import Any

from inkwell_bridge.core.books import (
    BooksDocument,
    CreditNote,
    DocumentLine,
    Invoice,
    LineKind,
    SalesOrder,
    Standing,
    TradeDocument,
)
from inkwell_bridge.ends.tryton import notes
from inkwell_bridge.ends.tryton.goods import SYMBOLS, UNITS
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.rpc import Json

# What a line is, and which line of its order it came from.
_LINE_MARK = "Line"
# Every field of a line comes along with its document, in one call.
_LINE = ("lines.type", "lines.sequence", "lines.quantity", "lines.unit.symbol", "lines.unit_price", "lines.amount",
         "lines.description", "lines.note", "lines.product.code", "lines.taxes.name", "lines.taxes.rate")  # fmt: skip
_TOTALS = ("untaxed_amount", "tax_amount", "total_amount", "_timestamp")
_HEAD = ("reference", "description", "comment", "number", "state", "party", "currency.code", "currency.rounding")
INVOICE_FIELDS = (*_HEAD, *_TOTALS, *_LINE, "lines.account.code", "invoice_date", "payment_term.name", "type")
BRIEF_FIELDS = ("reference", "description", "comment", "number", "state", "currency.code", "untaxed_amount",
                "tax_amount", "total_amount")  # fmt: skip
SALE_FIELDS = (*_HEAD, *_TOTALS, *_LINE, "sale_date", "warehouse.code", "shipping_date")


def invoice_words(document: BooksDocument, names: Names) -> dict[str, Any]:
    """An invoice or credit note as Tryton takes it; a credit note is an invoice of negative quantities there."""
    assert isinstance(document, Invoice | CreditNote)
    sign = -1 if isinstance(document, CreditNote) else 1
    accounts = names.ids("account", (line.account for line in document.lines))
    said = _head(document, names) | {
        "type": "out",
        "invoice_date": document.date,
        "lines": [{**line, "account": accounts[planned.account]}
                  for line, planned in zip(_lines(document, names, sign), document.lines, strict=True)],
    }  # fmt: skip
    if isinstance(document, Invoice):
        said["payment_term"] = names.one("terms", document.terms) if document.terms else None
    return said


def sale_words(document: BooksDocument, names: Names) -> dict[str, Any]:
    """A sales order as Tryton takes it; its invoice and its dispatch are made apart."""
    assert isinstance(document, SalesOrder)
    said = _head(document, names) | {
        "sale_date": document.date,
        "shipping_date": document.deliver_on,
        "invoice_method": "manual",
        "shipment_method": "manual",
        "lines": _lines(document, names, 1),
    }
    if names.has("sale.sale", "shipment_cost_method"):
        # A module may charge carriage by itself; ours is a line like any other.
        said["shipment_cost_method"] = None
    if document.warehouse:
        said["warehouse"] = names.one("warehouse", document.warehouse)
    return said


def _head(document: TradeDocument, names: Names) -> dict[str, Any]:
    several_lines = document.text if "\n" in document.text else ""
    own = {
        name.capitalize().replace("_", " "): getattr(document, name, "")
        for name in ("credits", "reason", "sales_order")
    }
    said = {"Text": several_lines, "Order": document.order_number, "Link": document.link, **own}
    return {
        "company": names.company()["id"],
        "currency": names.one("currency", document.currency),
        "reference": document.external_reference,
        "description": document.text.partition("\n")[0] or None,
        "comment": notes.written(said),
    }


def _lines(document: TradeDocument, names: Names, sign: int) -> list[dict[str, Any]]:
    """The lines; each note tells what the line is and which line of the order it came from."""
    units = names.ids("unit", (SYMBOLS.get(line.unit, "u") for line in document.lines))
    taxes = names.ids("tax", (line.tax_code for line in document.lines))
    items = names.ids("item", (line.item for line in document.lines))
    return [
        {
            "type": "line",
            "sequence": place,
            "product": items.get(line.item),
            # Tryton's quantities are binary numbers on the wire; fifteen digits come back as they went.
            "quantity": float(sign * line.quantity),
            "unit": units[SYMBOLS.get(line.unit, "u")],
            "unit_price": line.unit_price,
            "description": line.text,
            "note": _note(line),
            "taxes": [["add", [taxes[line.tax_code]]]] if line.tax_code else [],
        }
        for place, line in enumerate(document.lines, start=1)
    ]


def _note(line: DocumentLine) -> str:
    said = {_LINE_MARK: f"{line.kind}:{line.line_reference}", "Order": line.order_number, "Link": line.link}
    return notes.written(said, between=notes.BESIDE)


def invoice_document(found: Json, *, credit: bool) -> dict[str, Any]:
    """An invoice or credit note read back."""
    said = notes.read(found["comment"])
    document = _document(found, said, sign=-1 if credit else 1) | {"date": found["invoice_date"]}
    if credit:
        return document | {"credits": said.get("Credits", ""), "reason": said.get("Reason", "")}
    terms = (found["payment_term."] or {}).get("name", "")
    return document | {"terms": terms, "sales_order": said.get("Sales order", "")}


def sale_document(found: Json) -> dict[str, Any]:
    """A sales order read back."""
    said = notes.read(found["comment"])
    warehouse = (found["warehouse."] or {}).get("code") or ""
    own = {"date": found["sale_date"], "warehouse": warehouse, "deliver_on": found["shipping_date"]}
    return _document(found, said, sign=1) | own


def brief(found: Json, states: Mapping[str, Standing], date: str) -> dict[str, Any]:
    """An invoice or sale in a line, whoever entered it."""
    return {
        "id": str(found["id"]),
        "number": found["number"] or "",
        "standing": states[found["state"]],
        "external_reference": found["reference"] or "",
        # What somebody typed names the order in its reference or description.
        "order_number": notes.read(found["comment"]).get("Order") or found["reference"] or found["description"] or "",
        "date": found[date],
        "currency": found["currency."]["code"],
        **totals(found),
    }


def totals(found: Json, *, credit: bool = False) -> dict[str, Any]:
    """Tryton's own totals; those of a credit note are negative there."""
    sign = -1 if credit else 1
    names = {"net": "untaxed_amount", "tax": "tax_amount", "gross": "total_amount"}
    return {ours: sign * found[theirs] for ours, theirs in names.items()}


def _document(found: Json, said: dict[str, str], *, sign: int) -> dict[str, Any]:
    lines = [line for line in found["lines."] if line["type"] == "line"]
    lines.sort(key=lambda line: (line.get("sequence") or 0, line["id"]))
    taxes = _shared_tax(lines, found["tax_amount"], found["currency."]["rounding"])
    return {
        "external_reference": found["reference"],
        "order_number": said.get("Order", ""),
        "link": said.get("Link", ""),
        "text": said.get("Text", found["description"] or ""),
        "currency": found["currency."]["code"],
        "lines": [_held_line(line, tax, sign) for line, tax in zip(lines, taxes, strict=True)],
    }


def _held_line(line: Json, tax: Decimal, sign: int) -> dict[str, Any]:
    said = notes.read(line["note"], between=notes.BESIDE)
    kind, _, line_reference = said.get(_LINE_MARK, line["note"] or "").partition(":")
    named = line["taxes."] or []
    return {
        "kind": kind if kind in set(LineKind) else LineKind.GOODS,
        "line_reference": line_reference or "added in the books",
        "text": line["description"] or "",
        "account": (line.get("account.") or {}).get("code") or "",
        "item": (line["product."] or {}).get("code") or "",
        "quantity": f"{(sign * Decimal(line['quantity'])).normalize():f}",
        "unit": UNITS.get((line["unit."] or {}).get("symbol", "u"), "C62"),
        "unit_price": line["unit_price"],
        "net": sign * line["amount"],
        "tax_code": " + ".join(tax["name"] for tax in named),
        "tax": sign * tax,
        "order_number": said.get("Order", ""),
        "link": said.get("Link", ""),
    }


def _shared_tax(lines: Sequence[Json], total: Decimal, step: Decimal) -> list[Decimal]:
    """The document's tax by line.

    Tryton keeps tax by code, not by line. Each line is given what its rate makes of it, and what is then
    left of Tryton's own total goes to the largest line: the sum is Tryton's, to the penny.
    """

    # Nothing less than nothing is nothing: a zero has no sign.
    taxes = [(line["amount"] * _rate(line)).quantize(step, ROUND_HALF_EVEN) + 0 for line in lines]
    left = total - sum(taxes, Decimal(0))
    if left and taxes:
        largest = max(range(len(lines)), key=lambda place: abs(lines[place]["amount"]))
        taxes[largest] += left
    return taxes


def _rate(line: Json) -> Decimal:
    rates: list[Decimal] = [tax["rate"] or Decimal(0) for tax in line["taxes."] or []]
    return sum(rates, Decimal(0))
