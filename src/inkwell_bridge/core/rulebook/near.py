"""The known word that a mistyped one is nearest to."""

from __future__ import annotations

import difflib
from collections.abc import Iterable


def near_miss(word: str, known: Iterable[str]) -> str:
    """A hint that names the known word closest to ``word``, or all of them where none is close."""
    names = [str(name) for name in known]
    close = difflib.get_close_matches(word, names, n=1, cutoff=0.6)
    if close:
        return f"Did you mean '{close[0]}'?"
    return f"Known here: {', '.join(names[:12])}." if names else ""
