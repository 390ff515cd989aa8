"""The published formats, to hold against them what the program says."""

from __future__ import annotations

import json

from jsonschema import Draft202012Validator, FormatChecker

from inkwell_bridge.launch import places


def published(name: str) -> Draft202012Validator:
    """The schema of a format, by its file's name: ``notice-1``."""
    text = (places.root() / "docs" / "formats" / f"{name}.schema.json").read_text("utf-8")
    schema = json.loads(text)
    Draft202012Validator.check_schema(schema)
    return Draft202012Validator(schema, format_checker=FormatChecker())
