"""Keys of the bank's lines."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.shapes import choice, group

BANK = group(
    "How payouts are found on the lines of the bank's statements. A line that names a payout and has its amount is "
    "that payout in any case.",
    {
        "unnamed": choice(
            "Of a line that names no payout and has the amount of one: whether a person is asked, or the one that fits "
            "is taken where no other does.",
            "ask",
            "take the only one",
        ),
        "within_days": {
            "description": "So many days before or after the one on which a payout should arrive, a line may be it by "
            "its amount.",
            "type": "integer",
            "minimum": 0,
            "maximum": 60,
            "default": 5,
            "examples": [3],
        },
    },
    examples=[{"unnamed": "take the only one", "within_days": 3}],
)
