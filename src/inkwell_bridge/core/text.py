"""Text that comes from outside, made fit to be kept and shown."""

from __future__ import annotations

import hashlib
import re
from typing import Any

# What no database keeps in a text: U+0000, and halves of surrogate pairs, which are no characters.
UNFIT = re.compile("[\x00\ud800-\udfff]")
# What besides has no place in a line that people read.
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\u202a-\u202e\u2066-\u2069]")
# Room for a name of a thing, and for its digest where it is too long.
LONGEST_NAME = 120
REPLACEMENT = "\ufffd"


def fit(value: Any) -> Any:
    """The same texts, lists and objects, with a replacement character for each that no text may hold."""
    match value:
        case str():
            return UNFIT.sub(REPLACEMENT, value)
        case list():
            return [fit(part) for part in value]
        case dict():
            return {fit(name): fit(part) for name, part in value.items()}
    return value


def fit_line(text: str, longest: int) -> str:
    """A text as it can be shown and logged, cut off where it goes on for too long."""
    clean = _CONTROL.sub(REPLACEMENT, text)
    return clean if len(clean) <= longest else f"{clean[: longest - 1]}…"


def fit_name(name: str, longest: int = LONGEST_NAME) -> str:
    """The name itself; one that is too long, or has what cannot be kept, is told apart from others by a digest."""
    clean = UNFIT.sub(REPLACEMENT, name)
    if clean == name and len(name) <= longest:
        return name
    digest = hashlib.sha256(name.encode("utf-8", "surrogatepass")).hexdigest()[:24]
    return f"{clean[:80]}~{digest}"
