"""The shapes that many keys share."""

from __future__ import annotations

import re
from typing import Any

from inkwell_bridge.core.expressions import LINE, ORDER

Json = dict[str, Any]
MOST_ENTRIES = 500


def group(description: str, properties: Json, *, required: tuple[str, ...] = (), **more: Any) -> Json:
    """A group of named values, and no others."""
    needs = {"required": list(required)} if required else {}
    return {"description": description, "type": "object", "additionalProperties": False, **needs, **more,
            "properties": properties}  # fmt: skip


def choice(description: str, *options: str, **more: Any) -> Json:
    """One of these; the first is meant where nothing is said."""
    return {"description": description, "enum": list(options), "default": options[0], "examples": [options[-1]], **more}


def text(description: str, *, longest: int = 500, example: str = "", **more: Any) -> Json:
    """A text."""
    shown = {"examples": [example]} if example else {}
    return {"description": description, "type": "string", "minLength": 1, "maxLength": longest, **shown, **more}


def referred(name: str, description: str, **more: Any) -> Json:
    """A shape of ``DEFINITIONS``, with what it means here."""
    return {"$ref": f"#/$defs/{name}", "description": description, **more}


def table(description: str, values: Json, *, example: Json | None = None, **more: Any) -> Json:
    """A table from names to values."""
    shown = {"examples": [example]} if example else {}
    return {"description": description, "type": "object", "maxProperties": MOST_ENTRIES,
            "additionalProperties": values, **shown, **more}  # fmt: skip


def offered(end: str, kind: str, *types: str) -> Json:
    """Which names of an end fit, for whoever helps to write a rulebook: ``books`` or ``source``, a list of it, and of
    accounts the types. It constrains nothing: what does not fit is found when a rulebook is held against both ends."""
    return {"x-offers": {"end": end, "kind": kind, **({"types": sorted(types)} if types else {})}}


def code_of(end: str, kind: str, *types: str) -> Json:
    """A code, one of those names."""
    return {**CODE, **offered(end, kind, *types)}


def keyed_by(end: str, kind: str) -> Json:
    """Of a table: what its names are."""
    return {"x-keys": offered(end, kind)["x-offers"]}


_OF_LINES = re.compile(r"line\.").match
CODE: Json = {"$ref": "#/$defs/code"}
DEFINITIONS: Json = {
    "code": {"type": "string", "minLength": 1, "maxLength": 120},
    # Whoever helps to write one offers these: of an order, and of a line of it besides.
    "expression": {"type": "string", "minLength": 1, "maxLength": 1000,
                   "x-names": {"order": list(ORDER.known), "line": [*filter(_OF_LINES, LINE.known)]}},
    "condition": {
        "oneOf": [
            {"$ref": "#/$defs/expression"},
            {
                "type": "object",
                "additionalProperties": False,
                "minProperties": 1,
                "maxProperties": 1,
                "properties": {
                    name: {"description": meaning, "type": "array", "minItems": 1, "maxItems": 50,
                           "items": {"$ref": "#/$defs/condition"},
                           "examples": [["order.total > 5000", 'order.country == "GB"']]}
                    for name, meaning in (("all", "Each of these is true."), ("any", "One of these is true at least."),
                                          ("none", "Each of these is false."))
                },
            },
        ]
    },
}  # fmt: skip
