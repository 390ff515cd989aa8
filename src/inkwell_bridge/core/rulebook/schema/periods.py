"""Keys of periods that the books have locked."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.shapes import choice, group, text

PERIODS = group(
    "Documents dated in a period that the books have locked.",
    {
        "locked": choice(
            "Whether such a document is held, or dated on the first open day; the day of its tax stays.",
            "hold",
            "first open day",
            **{"x-findings": ["BOOKS-E002", "DATE-N002"]},
        ),
        "own_date": text(
            "The field of the books that keeps the day which it would have had.",
            longest=120,
            example="own_date",
            **{"x-findings": ["CAN-E010"]},
        ),
    },
    examples=[{"locked": "first open day", "own_date": "own_date"}],
)
