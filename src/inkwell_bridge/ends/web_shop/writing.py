"""What we write back in the web shop's words, and its reference data."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.commerce import Dispatch, Payment, SalesMasterData, StockLevel
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.web_shop.mapping import Json


def dispatch_written(dispatch: Dispatch) -> dict[str, Any]:
    """A dispatch as the shop takes it; its reference makes it one, however often it is told."""
    return {
        "reference": dispatch.number,
        "when": dispatch.dispatched_at.isoformat(),
        "from": dispatch.location,
        "carrier": dispatch.carrier,
        "tracking": dispatch.tracking_number,
        "tracking_page": dispatch.tracking_link,
        "rows": [
            {
                "row": line.line,
                "article": line.sku,
                "count": f"{line.quantity:f}",
                "lots": [{"lot": lot.code, "count": f"{lot.quantity:f}"} for lot in line.lots],
                "serials": list(line.serials),
            }
            for line in dispatch.lines
        ],
    }


def payment_written(payment: Payment) -> dict[str, Any]:
    """Money as the shop takes it; its transaction makes it one, however often it is told."""
    return {
        "transaction": payment.transaction,
        "by": payment.method,
        "sum": f"{payment.amount:f}",
        "when": payment.paid_at.isoformat() if payment.paid_at else None,
    }


def stock_written(level: StockLevel) -> dict[str, str]:
    """A stock level as the shop takes it."""
    return {
        "article": level.sku,
        "at": level.location,
        "there": f"{level.on_hand:f}",
        "free": f"{level.available:f}",
    }


def reference_read(said: Any) -> SalesMasterData:
    """The shop's reference data."""
    try:
        return SalesMasterData.read(_reference(said))
    except (KeyError, TypeError, AttributeError) as error:
        raise Away(f"the shop's list of names lacks or misstates {error}") from error


def _reference(said: Json) -> dict[str, Any]:
    return {
        "seller": said["name"],
        "currency": said["currency"],
        "tax_classes": [
            {
                "name": found["class"],
                "rates": [
                    {
                        "name": rate["name"],
                        "country": rate.get("country", ""),
                        "region": rate.get("area", ""),
                        "rate_percent": rate["percent"],
                    }
                    for rate in found["rates"]
                ],
            }
            for found in said["taxes"]
        ],
        "payment_methods": said["paying_by"],
        "card_brands": said["card_brands"],
        "shipping_methods": said["carriage"],
        "order_statuses": said["states"],
        "payment_statuses": said["money_states"],
        "locations": said["places"],
        "product_types": said["types"],
        "attributes": said["fields"],
        "customer_groups": said["groups"],
        "languages": said["languages"],
        "discount_codes": said["codes"],
    }
