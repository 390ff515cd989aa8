"""Values written as YAML: on one line, or on lines of their own."""

from __future__ import annotations

import re
from collections.abc import Iterator
from decimal import Decimal
from typing import Any

import yaml

INDENT = 2
# Longer than this, a list stands as one entry a line.
_LONGEST_LINE = 90
# What needs no quotes wherever it stands; all else is quoted, which is never wrong.
_PLAIN = re.compile(r"[A-Za-z](?:[A-Za-z0-9_./@-]| (?=[A-Za-z0-9]))*\Z|[0-9]{4}-[0-9]{2}-[0-9]{2}\Z")
_TEXTS = {"tag:yaml.org,2002:str", "tag:yaml.org,2002:timestamp"}
_RESOLVER: Any = yaml.SafeLoader("")


def needs_lines(value: Any) -> bool:
    """Whether a value stands on lines of its own: a group, or a list of groups or too long for one line."""
    if isinstance(value, list):
        return any(isinstance(one, dict | list) for one in value) or len(flow(value)) > _LONGEST_LINE
    return isinstance(value, dict) and bool(value)


def entry(name: str, value: Any, column: int) -> list[str]:
    """The lines of a key of a group."""
    if not needs_lines(value):
        return [f"{' ' * column}{scalar(name)}: {flow(value)}"]
    return [f"{' ' * column}{scalar(name)}:", *block(value, column + INDENT)]


def block(value: Any, column: int) -> Iterator[str]:
    """The lines of a group or list; what stands in a list is one line each."""
    if isinstance(value, list):
        yield from (f"{' ' * column}- {flow(one)}" for one in value)
    else:
        for name, below in value.items():
            yield from entry(name, below, column)


def flow(value: Any) -> str:
    """A value on one line."""
    if isinstance(value, dict):
        return f"{{{', '.join(f'{scalar(name)}: {flow(below)}' for name, below in value.items())}}}"
    if isinstance(value, list):
        return f"[{', '.join(map(flow, value))}]"
    return scalar(value)


def scalar(value: Any) -> str:
    """A single value; a text that could be taken for something else stands between quotes."""
    if value is None or isinstance(value, bool):
        return "null" if value is None else str(value).lower()
    if isinstance(value, int | Decimal):
        return f"{value:f}" if isinstance(value, Decimal) else str(value)
    text = str(value)
    plain = _PLAIN.match(text) and _RESOLVER.resolve(yaml.ScalarNode, text, (True, False)) in _TEXTS
    return text if plain else quoted(text)


def quoted(text: str) -> str:
    """A text between double quotes (YAML 1.2, 7.3.1)."""
    return f'"{"".join(map(_printed, text))}"'


def _printed(one: str) -> str:
    """A character between double quotes: what would end or fold them is written by its number."""
    if one in '"\\':
        return f"\\{one}"
    if one.isprintable():
        return one
    return {"\n": "\\n", "\t": "\\t"}.get(one) or (f"\\u{ord(one):04x}" if ord(one) < 0x10000 else f"\\U{ord(one):08x}")


def commented(key: str, value: str, comment: str, *, indent: int) -> str:
    """A line with the reason for it behind; without a key, one of a list."""
    said = "".join(sign if sign.isprintable() else " " for sign in comment)
    return f"{' ' * indent}{f'{key}: ' if key else ''}{value}".ljust(28) + f"  # {said}"
