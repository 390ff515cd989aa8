"""What a books end can and cannot do; the planner and the carriage ask, never guess."""

from __future__ import annotations

from typing import Literal

from inkwell_bridge.core.values import Value


class BooksCapabilities(Value):
    """The traits of one kind of books.

    Units: ``price_digits`` digits after the point of a unit price; ``slowest_answer_seconds`` is the
    time after which a call that was cut off can no longer take effect.
    """

    documents: tuple[Literal["invoice"], ...] = ("invoice",)
    tax: Literal["computed", "given"] = "computed"
    tax_rounded_by: Literal["line", "document"] = "line"
    price_digits: int = 4
    drafts: bool = True
    idempotency_keys: bool = False
    search_by_mark: bool = True
    slowest_answer_seconds: float = 20.0
