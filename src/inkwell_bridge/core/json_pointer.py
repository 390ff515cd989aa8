"""JSON Pointers (RFC 6901): where a value stands in a document."""

from __future__ import annotations


def escaped(name: str) -> str:
    """A name as a part of a pointer."""
    return name.replace("~", "~0").replace("/", "~1")


def parts_of(pointer: str) -> tuple[str, ...]:
    """The names and places that a pointer leads through; none for the whole document."""
    return tuple(part.replace("~1", "/").replace("~0", "~") for part in pointer.split("/")[1:])
