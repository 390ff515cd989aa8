"""What a dialect has no place for, told before it is sent."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import Any

from inkwell_bridge.core.books import BooksDocument


def unsupported_fields(document: BooksDocument, fields: Collection[str]) -> tuple[str, ...]:
    """JSON Pointers of everything on ``document`` that says something in one of ``fields``."""
    return tuple(_found(document.model_dump(mode="json", exclude_defaults=True), fields, ""))


def _found(value: Any, fields: Collection[str], at: str) -> Iterator[str]:
    if isinstance(value, dict):
        for name, part in value.items():
            if name in fields:
                yield f"{at}/{name}"
            else:
                yield from _found(part, fields, f"{at}/{name}")
    elif isinstance(value, list):
        for place, part in enumerate(value):
            yield from _found(part, fields, f"{at}/{place}")
