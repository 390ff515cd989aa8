"""Documents that somebody entered at an end, without the marks that ours bear."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.books import Role, TradeDocument


def with_marks(role: Role, document: dict[str, Any], *marks: str) -> dict[str, Any]:
    """A document's fields with a reference, and of a sale with an order's number, where its end has none for it.

    ``marks`` are what it is known by besides; the first that says anything counts. Without this nobody could read what
    a bookkeeper typed in; ours are never without either.
    """
    known = document.get("external_reference") or next(filter(None, marks), "")
    marked = document | {"external_reference": known}
    if issubclass(role.shape, TradeDocument):
        marked["order_number"] = document.get("order_number") or known
    return marked
