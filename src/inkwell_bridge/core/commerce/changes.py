"""What has changed between two readings of one source document, value by value, for a person to compare."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

# Whoever has more to compare than this looks at the document itself.
MOST_CHANGES = 100
# A list of such parts is compared part by part, whatever their order: by what names a part for good.
_NAMED_BY = ("id", "transaction", "line")
_TITLED_BY = ("title", "sku", "method", "text", "kind")
# When it was last touched says nothing to a person.
_NOT_COMPARED = frozenset({"changed_at"})


@dataclass(frozen=True, slots=True)
class Change:
    """One value that is another now.

    ``what`` names it in words (``lines, Wool socks: tax class``); ``before`` and ``after`` are as the source wrote
    them, absent where nothing was said. A part that came or went whole is told by its title and its amount.
    """

    what: str
    before: str | None
    after: str | None


def changes(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[Change]:
    """What is another in ``after``, in the order of the document; both as JSON values. At most ``MOST_CHANGES``.

    Example:
        >>> changes({"status": "paid", "total": "12.00"}, {"status": "cancelled", "total": "12.00"})
        [Change(what='status', before='paid', after='cancelled')]
    """
    return list(islice(_of_mapping("", before, after), MOST_CHANGES))


def _of_mapping(what: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[Change]:
    # In the order of the older one; what only the newer one has comes last.
    for key in [key for key in dict.fromkeys([*before, *after]) if key not in _NOT_COMPARED]:
        words = key.replace("_", " ")
        yield from _of_value(f"{what}: {words}" if what else words, before.get(key), after.get(key))


def _of_value(what: str, before: Any, after: Any) -> Iterator[Change]:
    if before == after:
        return
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        yield from _of_mapping(what, before, after)
    elif _is_of_parts(before) and _is_of_parts(after):
        yield from _of_parts(what, before or [], after or [])
    else:
        yield Change(what, _in_words(before), _in_words(after))


def _is_of_parts(value: Any) -> bool:
    """Whether it is a list of mappings; one that is absent may be."""
    return value is None or (isinstance(value, list) and all(isinstance(part, Mapping) for part in value))


def _of_parts(what: str, before: Sequence[Mapping[str, Any]], after: Sequence[Mapping[str, Any]]) -> Iterator[Change]:
    old, new = _by_name(before), _by_name(after)
    for name in dict.fromkeys([*old, *new]):
        was, now = old.get(name), new.get(name)
        if was is not None and now is not None:
            yield from _of_mapping(f"{what}, {_title(now) or name}", was, now)
        else:
            yield Change(what, _in_words(was), _in_words(now))


def _by_name(parts: Sequence[Mapping[str, Any]]) -> dict[str, Mapping[str, Any]]:
    """The parts by what names them, or by their place where nothing does or two are called the same."""
    for key in _NAMED_BY:
        names = [str(part[key]) for part in parts if part.get(key)]
        if len(names) == len(parts) == len(set(names)):
            return dict(zip(names, parts, strict=True))
    return {str(place): part for place, part in enumerate(parts, start=1)}


def _title(part: Mapping[str, Any]) -> str:
    return next((str(part[key]) for key in _TITLED_BY if part.get(key)), "")


def _in_words(value: Any) -> str | None:
    if value is None or value == [] or value == {}:
        return None
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(_in_words(part) or "–" for part in value)
    if isinstance(value, Mapping):
        counted = f"{value['quantity']} × " if value.get("quantity") else ""
        said = [f"{counted}{_title(value)}".strip(), str(value.get("amount", ""))]
        shown = ", ".join(part for part in said if part)
        return shown or "; ".join(f"{key.replace('_', ' ')} {_in_words(one)}" for key, one in value.items())
    return str(value)
