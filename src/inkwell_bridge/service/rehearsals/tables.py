"""Coverage as a file."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from inkwell_bridge.service.csv_writing import written

_HEADING = ("aspect", "value", "standing", "orders", "unmapped orders", "currency", "amount", "rules", "rates",
            "suggested key", "suggested value", "examples")  # fmt: skip


def coverage_csv(values: Sequence[dict[str, Any]]) -> Iterator[str]:
    """A row for each value and currency; one without any amount has one row."""
    return written(_HEADING, (row for one in values for row in _rows(one)))


def _rows(one: dict[str, Any]) -> Iterator[tuple[str, ...]]:
    suggested = one["suggestion"] or {}
    rules = "; ".join(f"{use['rule']} = {use['gave']} ({use['orders']})" for use in one["rules"])
    for currency, amount in (one["amounts"] or {"": ""}).items():
        yield (
            one["aspect"], one["value"], one["standing"], str(one["orders"]), str(one["unmapped"]), currency, amount,
            rules, "; ".join(one["rates"]), suggested.get("at", ""), suggested.get("value", ""),
            ", ".join(one["examples"]),
        )  # fmt: skip
