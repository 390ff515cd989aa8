"""A rulebook changed by a JSON Patch (RFC 6902), in its own text: comments, order and spelling of all else stay.

The values that a patch names are found in the text by the marks of the YAML parser, and only their characters are
exchanged. A text that was changed is read again and must say what the patch asked for, so that no slip of this module
can ever change a rule unnoticed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from copy import deepcopy
from typing import Any, Literal

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.rulebook.yaml_lines import NotYaml, read_with_lines
from inkwell_bridge.core.rulebook.yaml_text import YamlText
from inkwell_bridge.core.values import Value

# The text is read for each value that is exchanged, and a group that is replaced may be thousands of them.
MOST_CHARACTERS_READ = 5_000_000


class NotPatched(InkwellError):
    """A patch that does not fit the text; ``at`` is the pointer that it fails at."""

    def __init__(self, at: str, reason: str) -> None:
        self.at, self.reason = at, reason
        super().__init__(f"{at or '/'}: {reason}")


class Operation(Value):
    """One operation of RFC 6902: ``from`` is only there to move, ``value`` only to add and to replace."""

    op: Literal["add", "remove", "replace", "move"]
    path: str
    from_path: str = ""
    value: Any = None


def patched(text: str, operations: Sequence[Operation]) -> str:
    """The text after these operations, one after the other.

    A group or list that is replaced is compared with what stands there, and only what differs is exchanged, so that
    comments beside values that stay are kept as well. ``replace`` and ``add`` both set a key of a group, whether it is
    there or not; in a list ``add`` inserts, and ``-`` stands for its end.

    Raises:
        NotPatched: a pointer leads nowhere, or to what cannot be changed; or it is too much for one call.
        NotYaml: the text is no YAML that this program reads.
    """
    if len(text) * len(operations) > MOST_CHARACTERS_READ:
        most = max(MOST_CHARACTERS_READ // len(text), 1)
        raise NotPatched("", f"at most {most} operations at a time on a text of this length")
    values, _ = read_with_lines(text)
    left = MOST_CHARACTERS_READ
    for operation in operations:
        wanted = _applied(values, operation)
        try:
            for step in _steps(values, operation):
                left -= len(text)
                if left < 0:
                    raise NotPatched(operation.path, "too many values at a time; change it in the text")
                text = _exchanged(text, step)
            values, _ = read_with_lines(text)
        except NotYaml:
            values = None
        if values != wanted:
            raise NotPatched(operation.path, "cannot be changed here; change it in the text")
    return text


def _exchanged(text: str, step: Operation) -> str:
    """The text after one operation that is as small as can be."""
    at = parts_of(step.path)
    yaml_text = YamlText(text)
    if step.op == "remove":
        return yaml_text.without(at)
    if step.op == "replace":
        return yaml_text.with_value(at, step.value)
    return yaml_text.with_entry(at, step.value)


def _steps(values: Any, operation: Operation) -> Iterator[Operation]:
    """The smallest operations that come to the same: a change of a group is one of its keys."""
    path, value = operation.path, operation.value
    if operation.op == "remove":
        yield operation
    elif operation.op == "move":
        yield Operation(op="remove", path=operation.from_path)
        yield Operation(op="add", path=path, value=_at(values, parts_of(operation.from_path)))
    elif operation.op == "add" and isinstance(_at(values, parts_of(path)[:-1]), list):
        yield operation
    elif not parts_of(path):
        yield from differences(values, value)
    else:
        *above, name = parts_of(path)
        group = _at(values, above)
        if isinstance(group, dict) and name not in group:
            yield Operation(op="add", path=path, value=value)
        else:
            yield from differences(_at(values, parts_of(path)), value, path)


def differences(before: Any, after: Any, at: str = "") -> Iterator[Operation]:
    """The smallest operations that lead from the first values to the second."""
    if before == after and type(before) is type(after):
        return
    if isinstance(before, dict) and isinstance(after, dict) and before and after:
        for name in after:
            below = f"{at}/{escaped(name)}"
            if name in before:
                yield from differences(before[name], after[name], below)
            else:
                yield Operation(op="add", path=below, value=after[name])
        # What is new comes before what is old has gone, so that no group is ever empty on the way.
        yield from (Operation(op="remove", path=f"{at}/{escaped(name)}") for name in before if name not in after)
    elif isinstance(before, list) and isinstance(after, list) and before and after:
        same = min(len(before), len(after))
        for place in range(same):
            yield from differences(before[place], after[place], f"{at}/{place}")
        yield from (Operation(op="add", path=f"{at}/-", value=one) for one in after[same:])
        yield from (Operation(op="remove", path=f"{at}/{place}") for place in reversed(range(same, len(before))))
    else:
        yield Operation(op="replace", path=at, value=after)


def _applied(values: Any, operation: Operation) -> Any:
    """What the values are to be after an operation.

    Raises:
        NotPatched: it does not fit them.
    """
    values = deepcopy(values)
    value = deepcopy(operation.value)
    if operation.op == "move":
        value = _taken(values, operation.from_path)
    if operation.op == "remove":
        _taken(values, operation.path)
        return values
    parts = parts_of(operation.path)
    if not parts:
        return value
    group = _at(values, parts[:-1], path=operation.path)
    name = parts[-1]
    if isinstance(group, dict):
        group[name] = value
    elif isinstance(group, list) and operation.op == "replace":
        group[_place(name, len(group) - 1, operation.path)] = value
    elif isinstance(group, list):
        group.insert(len(group) if name == "-" else _place(name, len(group), operation.path), value)
    else:
        raise NotPatched(operation.path, "what is above it is neither a group nor a list")
    return values


def _taken(values: Any, path: str) -> Any:
    parts = parts_of(path)
    if not parts:
        raise NotPatched(path, "a whole rulebook is not taken away")
    group = _at(values, parts[:-1], path=path)
    if isinstance(group, dict) and parts[-1] in group:
        return group.pop(parts[-1])
    if isinstance(group, list):
        return group.pop(_place(parts[-1], len(group) - 1, path))
    raise NotPatched(path, "nothing stands there")


def _at(values: Any, parts: Sequence[str], *, path: str = "") -> Any:
    for part in parts:
        if isinstance(values, dict) and part in values:
            values = values[part]
        elif isinstance(values, list):
            values = values[_place(part, len(values) - 1, path)]
        else:
            raise NotPatched(path or "/" + "/".join(parts), "nothing stands there")
    return values


def _place(part: str, last: int, path: str) -> int:
    if not (part.isascii() and part.isdecimal() and len(part) <= 6 and int(part) <= last):
        raise NotPatched(path, f"the list has no place {part[:20]}")
    return int(part)
