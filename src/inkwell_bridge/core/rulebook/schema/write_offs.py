"""Keys of small balances that are given up."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.shapes import group, table

_AMOUNT = {"type": ["number", "integer"], "minimum": 0}
WRITE_OFFS = {
    "x-findings": ["CAN-E001", "RULE-E011"],
    **group(
        "What is left open of a sale and is given up by a run, on the account of accounts: write_offs; without this "
        "group nothing is. No tax comes back by it.",
        {
            "up_to": {
                **_AMOUNT,
                "description": "The largest balance that is given up, whoever owes it, in the company's own currency.",
                "maximum": 1000,
                "examples": [0.5],
            },
            "by_currency": table(
                "The largest balance in other currencies; in one that is not named nothing is given up.",
                {**_AMOUNT, "maximum": 1_000_000},
                example={"EUR": 0.5, "JPY": 50},
            ),
            "after_days": {
                "description": "So many days after the last document of the sale.",
                "type": "integer",
                "minimum": 0,
                "maximum": 3650,
                "default": 30,
                "examples": [60],
            },
        },
        required=("up_to",),
        examples=[{"up_to": 0.5, "after_days": 30}],
    ),
}
