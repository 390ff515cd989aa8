"""Two rulebooks compared, in words: what a change of the rules really changes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.values import Text, Value


class Change(Value):
    """One change; ``at`` is a JSON Pointer into the rulebook."""

    at: Text
    text: Text


def compare(before: Rulebook, after: Rulebook) -> tuple[Change, ...]:
    """Everything that is otherwise, defaults filled in: a default that is written out is no change."""
    return tuple(_changes(before.as_json(), after.as_json(), ""))


def _changes(before: Any, after: Any, at: str) -> Iterator[Change]:
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        for name in (*before, *(name for name in after if name not in before)):
            yield from _changes(before.get(name), after.get(name), f"{at}/{escaped(name)}")
    elif isinstance(before, list) and isinstance(after, list):
        yield from _listed(before, after, at)
    else:
        yield Change(at=at[:2000], text=_said(before, after, at)[:2000])


def _listed(before: list[Any], after: list[Any], at: str) -> Iterator[Change]:
    """What was added to a list, what was taken from it; for the same entries, that their order is another."""
    gone = [one for one in before if one not in after]
    added = [one for one in after if one not in before]
    for one in gone:
        yield Change(at=at, text=f"{_named(at)}: {_value(one)} was taken out.")
    for one in added:
        yield Change(at=at, text=f"{_named(at)}: {_value(one)} was added.")
    if not gone and not added:
        yield Change(at=at, text=f"{_named(at)}: the same entries, in another order.")


def _said(before: Any, after: Any, at: str) -> str:
    if _empty(before):
        return f"{_named(at)}: now {_value(after)}; nothing was said before."
    if _empty(after):
        return f"{_named(at)}: no longer said; it was {_value(before)}."
    return f"{_named(at)}: was {_value(before)}, is {_value(after)}."


def _empty(value: Any) -> bool:
    return value is None or value in ("", {}, [])


def _named(at: str) -> str:
    """A pointer as people read it: /accounts/sales/default as 'accounts, sales'."""
    parts = [part.replace("_", " ") for part in parts_of(at)]
    return ", ".join(part for part in parts if part != "default") or "the rulebook"


def _value(value: Any) -> str:
    if isinstance(value, dict):
        # The language of a field is that of its date or amount, and says nothing without one.
        idle = {"language"} if not (value.get("date") or value.get("amount")) else set()
        said = {name: met for name, met in value.items() if not _empty(met) and name not in idle}
        # What people write as a plain text or code is a group of one inside.
        if set(said) in ({"default"}, {"expression"}, {"fixed"}, {"template"}):
            return _value(next(iter(said.values())))
        return ", ".join(f"{name.replace('_', ' ')} {_value(met)}" for name, met in said.items())
    if isinstance(value, list):
        return ", ".join(_value(one) for one in value)
    return f"'{value}'"
