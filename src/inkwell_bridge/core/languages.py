"""Languages by their tags (BCP 47), as shops write them and as rules name them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

_LONGEST_SINGLE = 1
_SCRIPT, _REGION = 4, 2


@lru_cache(maxsize=512)
def ranges(tag: str) -> Sequence[str]:
    """A language, and what it falls back to, the nearest first: de-AT, de; nothing for no language.

    Source: RFC 4647, section 3.4 (lookup); the cases of RFC 5646, section 2.1.1. An underscore, as some shops write
    it, is a hyphen.

    Example:
        >>> ranges("zh_hant_TW")
        ('zh-Hant-TW', 'zh-Hant', 'zh')
    """
    parts = [_written(part, place) for place, part in enumerate(tag.strip().replace("_", "-").split("-")) if part]
    found = []
    while parts:
        found.append("-".join(parts))
        parts.pop()
        # A single letter opens what is said in private or besides, and means nothing without it.
        while parts and len(parts[-1]) == _LONGEST_SINGLE:
            parts.pop()
    return tuple(found)


def _written(part: str, place: int) -> str:
    if place and len(part) == _REGION:
        return part.upper()
    return part.title() if place and len(part) == _SCRIPT and part.isalpha() else part.lower()
