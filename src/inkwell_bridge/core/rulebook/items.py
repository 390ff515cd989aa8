"""Which item of the books an article that was sold is."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import field_validator

from inkwell_bridge.core.values import Code, Value

Way = Literal["sku", "barcode", "link"]


class ItemRules(Value):
    """Lines stand on the books' items.

    Shape: ``find_by`` are the ways in which the item of an article is looked for: the first that finds exactly one
    wins. What none finds stands on ``catch_all``, is held, or stays a plain text on its account.
    """

    find_by: tuple[Way, ...] = ("sku", "barcode", "link")
    not_found: Literal["text line", "catch-all", "hold"] = "text line"
    catch_all: Code | None = None

    @field_validator("find_by", mode="before")
    @classmethod
    def _one_way(cls, given: Any) -> Any:
        return (given,) if isinstance(given, str) else given
