"""The forms by which ends are opened: JSON Schemas of what has to be entered, with what is secret marked."""

from __future__ import annotations

from typing import Any

LONGEST = 500


def text(title: str) -> dict[str, Any]:
    """A field that may be seen."""
    return {"type": "string", "title": title, "minLength": 1, "maxLength": LONGEST}


def secret(title: str) -> dict[str, Any]:
    """A field that is written and never read back."""
    return {**text(title), "writeOnly": True}


def choice(title: str, options: tuple[str, ...]) -> dict[str, Any]:
    """A field that takes one of these; the first is meant where none is given."""
    return {"type": "string", "title": title, "enum": list(options), "default": options[0]}


def form(*, optional: tuple[str, ...] = (), **fields: dict[str, Any]) -> dict[str, Any]:
    """A form of these fields, all of them required but the optional ones, and no others."""
    return {
        "type": "object",
        "additionalProperties": False,
        "required": [name for name in fields if name not in optional],
        "properties": fields,
    }
