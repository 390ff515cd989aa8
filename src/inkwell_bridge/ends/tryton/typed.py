"""Tryton's typed values in JSON: an object with ``__class__`` stands for what JSON has no word for."""

from __future__ import annotations

import datetime
import json
from collections.abc import Mapping
from decimal import Decimal, InvalidOperation
from typing import Any

from inkwell_bridge.ends.reading import Unreadable, read_json

_PARTS = ("year", "month", "day", "hour", "minute", "second", "microsecond")


def written(body: Mapping[str, Any]) -> bytes:
    """A request as Tryton reads it."""
    return json.dumps(body, default=_typed).encode()


def read(body: bytes) -> Any:
    """An answer with its typed values as ours.

    Raises:
        Unreadable: it is no such JSON, or a typed value lacks its parts.
    """
    return _ours(read_json(body))


def _typed(value: Any) -> dict[str, Any]:
    match value:
        case Decimal():
            return {"__class__": "Decimal", "decimal": f"{value:f}"}
        case datetime.date():
            return {"__class__": "date", "year": value.year, "month": value.month, "day": value.day}
    raise TypeError(f"{type(value).__name__} has no place in a call to Tryton")


def _ours(value: Any) -> Any:
    if isinstance(value, list):
        return [_ours(part) for part in value]
    if not isinstance(value, dict):
        return value
    try:
        match value.get("__class__"):
            case "Decimal":
                return Decimal(value["decimal"])
            case "date":
                return datetime.date(value["year"], value["month"], value["day"])
            case "datetime":
                parts = {part: int(value[part]) for part in _PARTS}
                return datetime.datetime(**parts, tzinfo=datetime.UTC)
    except (KeyError, TypeError, ValueError, InvalidOperation) as error:
        raise Unreadable(f"a typed value that lacks or misstates {error}") from error
    return {name: _ours(part) for name, part in value.items()}
