"""What is too large to be read: it alone is told of, as far as its beginning goes; what stands beside it is read."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Sequence

from inkwell_bridge.ends.errors import TooLarge
from inkwell_bridge.ends.shapes import Fetched

_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\]:,]|[^\s{}\[\]:,"]+')


def by_halves(fetch: Callable[[Sequence[str]], Sequence[Fetched]], ids: Sequence[str],
              tell: Callable[[TooLarge, str], Fetched]) -> list[Fetched]:  # fmt: skip
    """What ``fetch`` answers about these; where that is too large, about each half, down to the one to blame."""
    try:
        return list(fetch(ids))
    except TooLarge as error:
        if len(ids) == 1:
            return [tell(error, ids[0])]
        middle = len(ids) // 2
        return [*by_halves(fetch, ids[:middle], tell), *by_halves(fetch, ids[middle:], tell)]


def told_of(error: TooLarge, *, id_field: str, number_field: str, depth: int, known_id: str = "") -> Fetched:
    """A document that is too large, by the id and number that its beginning names, ``depth`` levels down.

    One that does not name itself goes by a digest of where it was fetched, the same each time.
    """
    names = _named(error.beginning.decode("utf-8", "replace"), depth)
    identity = known_id or names.get(id_field) or f"too-large-{hashlib.sha256(error.url.encode()).hexdigest()[:24]}"
    number = names.get(number_field) or identity
    return Fetched(id=identity, number=number, changed_at=None, document=None, problem=str(error))


def _named(text: str, depth: int) -> dict[str, str]:
    """The plain values of the first JSON object that stands ``depth`` levels deep; the text may be cut off."""
    found: dict[str, str] = {}
    level, name, last = 0, "", ""
    for part in _TOKEN.findall(text):
        if part in "{[":
            level += 1
        elif part in "}]":
            if level == depth:
                break
            level -= 1
        elif level == depth and part == ":":
            name = last.strip('"')
        elif part == ",":
            name = ""
        elif level == depth and name:
            found.setdefault(name, part.strip('"'))
            name = ""
        last = part
    return found
