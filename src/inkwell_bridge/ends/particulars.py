"""Particulars of a contact in an end's own words: those that are to change, and who is the same by them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

from inkwell_bridge.core.books import Contact, Particular, Step

Json = Mapping[str, Any]


def chosen(said: Json, places: Mapping[Particular, tuple[str, ...]], only: Sequence[Particular]) -> dict[str, Any]:
    """What ``said`` has in the places of some particulars."""
    wanted = {name for particular in only for name in places.get(particular, ())}
    return {name: value for name, value in said.items() if name in wanted}


def same(
    found: Iterable[dict[str, Any]], read: Callable[[dict[str, Any]], Contact], contact: Contact, by: Step
) -> tuple[str, ...]:
    """The ids of those found that are the same by a step: an end may compare more loosely than we do."""
    return tuple(str(one["id"]) for one in found if read(one).key(by) == contact.key(by))
