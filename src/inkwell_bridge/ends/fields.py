"""Field tables: what the fields of a document are called at an end, said once for both ways.

A dialect lists the fields of each of its documents; the table writes a canonical document in the end's words, and reads
what the end answers back into ours. What an end splits or joins in a way of its own stands in the table as well.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

Json = Mapping[str, Any]
Convert = Callable[[Any], Any]


class Entry(Protocol):
    """A part of a table."""

    def write(self, document: Any) -> dict[str, Any]:
        """What it says of a canonical document, in the end's words."""

    def read(self, said: Json) -> dict[str, Any]:
        """The same in ours, of what the end says.

        Raises:
            KeyError, TypeError: the end left it out, or said something else.
        """


def _same(value: Any) -> Any:
    return value


@dataclass(frozen=True, slots=True)
class Field:
    """One field: ``ours`` is its name in the canonical shape, ``theirs`` at the end."""

    ours: str
    theirs: str
    out: Convert = _same
    back: Convert = _same

    def write(self, document: Any) -> dict[str, Any]:
        """See ``Entry.write``."""
        return {self.theirs: self.out(getattr(document, self.ours))}

    def read(self, said: Json) -> dict[str, Any]:
        """See ``Entry.read``."""
        return {self.ours: self.back(said[self.theirs])}


@dataclass(frozen=True, slots=True)
class Split:
    """Fields that an end keeps otherwise than one for one."""

    write: Callable[[Any], dict[str, Any]]
    read: Callable[[Json], dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Table:
    """The fields of one shape, in the order in which the end has them."""

    entries: tuple[Entry, ...]

    def write(self, document: Any) -> dict[str, Any]:
        """A canonical document in the end's words."""
        return {name: value for entry in self.entries for name, value in entry.write(document).items()}

    def read(self, said: Json) -> dict[str, Any]:
        """What the end says, in the words of the canonical shape; see ``Entry.read``."""
        return {name: value for entry in self.entries for name, value in entry.read(said).items()}


def table(*entries: Entry) -> Table:
    """A table of these."""
    return Table(entries)


def as_it_is(**names: str) -> tuple[Field, ...]:
    """Fields that are the same text on both sides: our name, then theirs."""
    return tuple(Field(ours, theirs) for ours, theirs in names.items())


def day(ours: str, theirs: str) -> Field:
    """A date, as ISO 8601."""
    return Field(ours, theirs, out=lambda value: value.isoformat())


def amount(ours: str, theirs: str) -> Field:
    """An exact number, as text without an exponent; nothing stays nothing."""
    return Field(ours, theirs, out=lambda value: None if value is None else f"{value:f}")


def group(ours: str, theirs: str, of_it: Table) -> Field:
    """One part, by a table of its own; nothing stays nothing."""
    return Field(
        ours,
        theirs,
        out=lambda part: None if part is None else of_it.write(part),
        back=lambda part: None if part is None else of_it.read(part),
    )


def rows(ours: str, theirs: str, of_each: Table) -> Field:
    """A list of parts, each by a table of its own."""
    return Field(
        ours,
        theirs,
        out=lambda parts: [of_each.write(part) for part in parts],
        back=lambda parts: [of_each.read(part) for part in parts],
    )
