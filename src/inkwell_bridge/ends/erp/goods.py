"""Goods that leave and goods that move, in the ERP's words and back; stock levels as the ERP hands them out."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.books import BooksDocument, Dispatch, GoodsLine, StockMove
from inkwell_bridge.ends.erp.mapping import MEASURES, UNITS, Json


def dispatch_to_words(document: BooksDocument) -> dict[str, Any]:
    """Goods that leave."""
    assert isinstance(document, Dispatch)
    return {
        "reference": document.external_reference,
        "date": document.date.isoformat(),
        "order": document.order_number,
        "sales_order": document.sales_order,
        "warehouse": document.warehouse,
        "carrier": document.carrier,
        "tracking": document.tracking_number,
        "lines": [_line(line) for line in document.lines],
    }


def dispatch_from_words(found: Json) -> dict[str, Any]:
    """A dispatch read back."""
    return {
        "external_reference": found["reference"],
        "date": found["date"],
        "order_number": found["order"],
        "sales_order": found["sales_order"],
        "warehouse": found["warehouse"],
        "carrier": found["carrier"],
        "tracking_number": found["tracking"],
        "lines": [_held_line(line) for line in found["lines"]],
    }


def move_to_words(document: BooksDocument) -> dict[str, Any]:
    """Goods that move."""
    assert isinstance(document, StockMove)
    return {
        "reference": document.external_reference,
        "date": document.date.isoformat(),
        "memo": document.text,
        "from": document.from_warehouse,
        "to": document.to_warehouse,
        "lines": [_line(line) for line in document.lines],
    }


def move_from_words(found: Json) -> dict[str, Any]:
    """A move read back."""
    return {
        "external_reference": found["reference"],
        "date": found["date"],
        "text": found["memo"],
        "from_warehouse": found["from"],
        "to_warehouse": found["to"],
        "lines": [_held_line(line) for line in found["lines"]],
    }


def _line(line: GoodsLine) -> dict[str, Any]:
    return {
        "note": line.line_reference,
        "article": line.item,
        "quantity": f"{line.quantity:f}",
        "measure": MEASURES.get(line.unit, "piece"),
        "lot": line.lot,
        "serials": list(line.serials),
    }


def _held_line(line: Json) -> dict[str, Any]:
    return {
        "line_reference": line["note"],
        "item": line["article"],
        "quantity": line["quantity"],
        "unit": UNITS.get(line["measure"], "C62"),
        "lot": line["lot"],
        "serials": line["serials"],
    }


def stock_level(found: Json) -> dict[str, Any]:
    """A stock level, as a source document."""
    return {
        "id": str(found["id"]),
        "number": f"{found['article']} {found['warehouse']}",
        "sku": found["article"],
        "location": found["warehouse"],
        "on_hand": found["there"],
        "available": found["free"],
        "changed_at": found["changed"],
    }


def dispatched(found: Json) -> dict[str, Any]:
    """A posted dispatch, as a source document for the shop to be told of."""
    return {
        "id": str(found["id"]),
        "number": found["number"],
        "order_number": found["order"],
        "dispatched_at": found["changed"],
        "changed_at": found["changed"],
        "location": found["warehouse"],
        "carrier": found["carrier"],
        "tracking_number": found["tracking"],
        "lines": [
            {
                "line": line["note"],
                "sku": line["article"],
                "quantity": line["quantity"],
                "lots": [{"code": line["lot"], "quantity": line["quantity"]}] if line["lot"] else [],
                "serials": line["serials"],
            }
            for line in found["lines"]
        ],
    }
