"""Keys of where the rates of foreign currencies come from."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.exchange_rates import RATE_SOURCES
from inkwell_bridge.core.rulebook.schema.shapes import group

EXCHANGE_RATES = {
    "x-findings": ["CAN-E013"],
    **group(
        "Rates of orders in other currencies than the company's own. Without this group the books take theirs.",
        {
            "taken_from": {
                "description": "Where a rate comes from: the first of these that has one. The `order`'s own, the "
                "one that its `payment` was settled at by the provider, or the `table` of daily rates of the company. "
                "One of them, or a list.",
                "oneOf": [
                    {"enum": list(RATE_SOURCES)},
                    {"type": "array", "minItems": 1, "uniqueItems": True, "items": {"enum": list(RATE_SOURCES)}},
                ],
                "default": list(RATE_SOURCES),
                "examples": [["table"]],
                "x-findings": ["RATE-E001"],
            },
            "oldest_days": {
                "description": "For so many days a rate of the table holds until there is a newer one, such as over a "
                "weekend.",
                "type": "integer",
                "minimum": 0,
                "maximum": 31,
                "default": 7,
                "examples": [4],
                "x-findings": ["RATE-E001"],
            },
        },
        examples=[{"taken_from": ["order", "table"]}],
    ),
}
