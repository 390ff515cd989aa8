"""Goods that leave and goods that move, in the ERP's words and back; stock levels as the ERP hands them out."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.ends.erp.mapping import MEASURES, UNITS, Json
from inkwell_bridge.ends.fields import Field, amount, as_it_is, day, rows, table

_LINE = table(
    *as_it_is(line_reference="note", item="article", lot="lot"),
    amount("quantity", "quantity"),
    Field("unit", "measure", out=lambda unit: MEASURES.get(unit, "piece"), back=lambda said: UNITS.get(said, PIECE)),
    Field("serials", "serials", out=list),
)
# Goods that leave, and goods that move.
DISPATCH = table(
    *as_it_is(external_reference="reference", order_number="order", sales_order="sales_order", warehouse="warehouse"),
    *as_it_is(carrier="carrier", tracking_number="tracking"),
    day("date", "date"),
    rows("lines", "lines", _LINE),
)
STOCK_MOVE = table(
    *as_it_is(external_reference="reference", text="memo", from_warehouse="from", to_warehouse="to"),
    day("date", "date"),
    rows("lines", "lines", _LINE),
)


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
