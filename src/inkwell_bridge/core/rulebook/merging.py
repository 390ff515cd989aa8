"""Two changes of the same rules put together: what two people wrote on one version, at once."""

from __future__ import annotations

from typing import Any, NamedTuple

from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.rulebook.patching import MOST_CHARACTERS_READ, NotPatched, differences, patched
from inkwell_bridge.core.rulebook.yaml_lines import read_with_lines


class Merged(NamedTuple):
    """A text with both changes; ``conflicts`` are the JSON Pointers that both changed, each in another way: there the
    text has theirs."""

    text: str
    conflicts: tuple[str, ...]


def merged(before: str, mine: str, theirs: str) -> Merged:
    """Their text with my changes since ``before`` made in it, value by value.

    A list counts as one value where both changed it, for its places mean something else after each change. Where there
    is more to put together than a person could look at, the text is theirs, and every section that I changed is named.

    Raises:
        NotYaml: one of the texts is no YAML that this program reads.
    """
    was, wanted, there = (read_with_lines(text)[0] for text in (before, mine, theirs))
    changed_there = [one.path for one in differences(was, there)]
    operations = list(differences(was, wanted))
    if len(operations) * len(theirs) > MOST_CHARACTERS_READ:
        sections = dict.fromkeys(f"/{escaped(parts_of(one.path)[0])}" for one in operations if one.path)
        return Merged(theirs, tuple(sections))
    text, conflicts = theirs, list[str]()
    for operation in operations:
        if _at(wanted, operation.path) == _at(there, operation.path):
            # Both wanted the same.
            continue
        place = _outside_lists(operation.path, was)
        if any(_touch(place, other) for other in changed_there):
            conflicts.append(place)
            continue
        try:
            text = patched(text, [operation])
        except NotPatched:
            conflicts.append(place)
    return Merged(text, tuple(dict.fromkeys(conflicts)))


def _touch(one: str, other: str) -> bool:
    """Whether one of two pointers leads to or into the other."""
    return one == other or one.startswith(f"{other}/") or other.startswith(f"{one}/")


def _outside_lists(path: str, values: Any) -> str:
    """The pointer as far as the first list on its way."""
    walked = ""
    for part in parts_of(path):
        if isinstance(values, list):
            return walked
        walked += f"/{escaped(part)}"
        values = values.get(part) if isinstance(values, dict) else None
    return walked


def _at(values: Any, path: str) -> Any:
    for part in parts_of(path):
        if isinstance(values, dict):
            values = values.get(part)
        elif isinstance(values, list) and part.isdecimal() and int(part) < len(values):
            values = values[int(part)]
        else:
            return None
    return values
