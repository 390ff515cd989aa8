"""Where everything in a rulebook stands, over all the files that it is made of."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple


class Place(NamedTuple):
    """A line of a file, counted from 1."""

    file: str
    line: int


class SourceMap:
    """The place of each JSON Pointer."""

    def __init__(self, known: Mapping[str, Place], file: str) -> None:
        self._known, self._file = known, file

    @classmethod
    def of_file(cls, lines: Mapping[str, int], file: str) -> SourceMap:
        """Of one file."""
        return cls({pointer: Place(file, line) for pointer, line in lines.items()}, file)

    def over(self, base: SourceMap) -> SourceMap:
        """These, and for what they do not have those of the rulebook below."""
        return SourceMap({**base._known, **self._known}, self._file)

    def find(self, pointer: str) -> Place:
        """The place of ``pointer``, or of the nearest thing around it that stands in a file."""
        while pointer and pointer not in self._known:
            pointer = pointer.rpartition("/")[0]
        return self._known.get(pointer, Place(self._file, 1))
