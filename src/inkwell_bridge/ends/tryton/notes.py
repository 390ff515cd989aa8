"""What Tryton has no field for stands in its notes, part by part, so that a person can read it and so can we."""

from __future__ import annotations

from collections.abc import Mapping

# A text of several lines takes a line for each part; a field of one line has them side by side.
BELOW, BESIDE = "\n", " | "
_ESCAPES = {"\\": "\\\\", "\n": "\\n", "\r": "\\r", "|": "\\p"}
_SIGNS = {"\\": "\\", "n": "\n", "r": "\r", "p": "|"}


def written(parts: Mapping[str, str], *, between: str = BELOW) -> str:
    """``Order: MW-10009`` and so on, for each part that says something."""
    return between.join(f"{name}: {_escaped(text)}" for name, text in parts.items() if text)


def read(text: str | None, *, between: str = BELOW) -> dict[str, str]:
    """The parts again; what people wrote besides is left out."""
    parts = (part.partition(": ") for part in (text or "").split(between))
    return {name: _as_it_was(said) for name, colon, said in parts if colon}


def _escaped(text: str) -> str:
    return "".join(_ESCAPES.get(sign, sign) for sign in text)


def _as_it_was(text: str) -> str:
    found, signs = [], iter(text)
    for sign in signs:
        if sign == "\\":
            after = next(signs, "")
            found.append(_SIGNS.get(after, after))
        else:
            found.append(sign)
    return "".join(found)
