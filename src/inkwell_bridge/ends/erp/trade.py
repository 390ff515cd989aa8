"""Documents with lines, in the ERP's words and back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from inkwell_bridge.core.books import BooksDocument, CashSale, DocumentLine, Field, LineKind, TradeDocument
from inkwell_bridge.ends.erp.mapping import MEASURES, UNITS, Json

# Fields that only some of the documents have: ours, and the ERP's word for it.
_OWN = {"tax_point": "tax_point", "due_on": "due", "terms": "terms", "sales_order": "sales_order",
        "warehouse": "warehouse", "deliver_on": "deliver_on", "credits": "credits", "reason": "reason",
        "organisational_unit": "unit", "price_list": "price_list", "delivery_method": "delivery_way",
        "sales_person": "seller", "language": "print_language",
        "rate": "rate", "rate_from": "rate_by", "base_currency": "rate_to",
        "supplier_number": "supplier_number", "purchase_order": "purchase_order"}  # fmt: skip


def to_words(document: BooksDocument) -> dict[str, Any]:
    """A planned document as the ERP takes it."""
    assert isinstance(document, TradeDocument)
    words = {
        "date": document.date.isoformat(),
        "currency": document.currency,
        "reference": document.external_reference,
        "order": document.order_number,
        "link": document.link,
        "memo": document.text,
        "further": _further(document.fields),
        "lines": [_line(part) for part in document.lines],
    }
    said = document.model_dump(mode="json")
    words |= {theirs: said[ours] for ours, theirs in _OWN.items() if ours in said}
    if isinstance(document, CashSale):
        words["takings"] = said["takings"]
    return words


def _further(fields: Sequence[Field]) -> dict[str, str]:
    return {field.name: field.value for field in fields}


def _line(planned: DocumentLine) -> dict[str, Any]:
    """A line; its note tells what it is and which line of the order it came from."""
    return {
        "text": planned.text,
        "note": f"{planned.kind}:{planned.line_reference}",
        "account": planned.account,
        "article": planned.item,
        "quantity": f"{planned.quantity:f}",
        "measure": MEASURES.get(planned.unit, "piece"),
        "unit_price": f"{planned.unit_price:f}",
        "tax_code": planned.tax_code,
        "warehouse": planned.warehouse,
        "lot": planned.lot,
        "order": planned.order_number,
        "link": planned.link,
        "further": _further(planned.fields),
    }


def from_words(found: Json) -> dict[str, Any]:
    """A document read back."""
    own = {ours: found[theirs] for ours, theirs in _OWN.items() if theirs in found}
    takings = {"takings": found["takings"]} if "takings" in found else {}
    return {
        "external_reference": found["reference"],
        "date": found["date"],
        "order_number": found["order"],
        "link": found["link"],
        "text": found.get("memo", ""),
        "fields": _fields(found),
        "currency": found["currency"],
        "lines": [_held_line(part) for part in found["lines"]],
        **own,
        **takings,
    }


def totals(found: Json) -> dict[str, Any]:
    """The ERP's own totals, and of a document in another currency what it makes of them in the company's own."""
    return {name: found[name] for name in ("net", "tax", "gross")} | {"base": found.get("base")}


def _fields(found: Json) -> list[dict[str, str]]:
    return [{"name": name, "value": value} for name, value in found.get("further", {}).items()]


def _held_line(part: Json) -> dict[str, Any]:
    kind, _, line_reference = part["note"].partition(":")
    return {
        "kind": kind if kind in set(LineKind) else LineKind.GOODS,
        "line_reference": line_reference or "added in the books",
        "text": part["text"],
        "account": part["account"],
        "item": part.get("article", ""),
        "quantity": part["quantity"],
        "unit": UNITS.get(part.get("measure", "piece"), "C62"),
        "unit_price": part["unit_price"],
        "net": part["net"],
        "tax": part["tax"],
        "tax_code": part["tax_code"],
        "warehouse": part.get("warehouse", ""),
        "lot": part.get("lot", ""),
        "order_number": part.get("order", ""),
        "link": part.get("link", ""),
        "fields": _fields(part),
    }
