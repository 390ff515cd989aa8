"""Reading YAML while remembering on which line everything stood."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import Any

import yaml

from inkwell_bridge.core.json_pointer import escaped

LARGEST_FILE_CHARACTERS = 200_000
MOST_NODES = 20_000
# That of libyaml where PyYAML was built with it, for it is ten times as fast; both read the same.
LOADER: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
DEEPEST_NESTING = 12

_PLAIN = {"tag:yaml.org,2002:map", "tag:yaml.org,2002:seq"}
_WORDS = {"true": True, "false": False, "null": None, "~": None, "": None}


class NotYaml(Exception):
    """The text is no YAML that this program reads; ``line`` counts from 1."""

    def __init__(self, line: int, reason: str) -> None:
        self.line = line
        self.reason = reason
        super().__init__(f"line {line}: {reason}")


def read_with_lines(text: str) -> tuple[Any, dict[str, int]]:
    """The values in ``text``, and the line on which each JSON Pointer stands.

    Whole numbers stay whole, others become exact decimals. Aliases, tags and repeated keys are refused: they hide
    what a rule says.

    Raises:
        NotYaml: with the line and the reason.
    """
    if len(text) > LARGEST_FILE_CHARACTERS:
        raise NotYaml(1, f"the file has more than {LARGEST_FILE_CHARACTERS} characters")
    try:
        # An alias gives its anchor's very node again, so only the events still show it.
        _look_through(text)
        node = yaml.compose(text, Loader=LOADER)
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        reason = getattr(error, "problem", None) or "a character that YAML does not allow"
        raise NotYaml(mark.line + 1 if mark else 1, str(reason)) from error
    except RecursionError as error:
        raise NotYaml(1, "nested too deeply") from error
    if node is None:
        raise NotYaml(1, "the file is empty")
    source_map: dict[str, int] = {}
    return _value(node, "", source_map, 0), source_map


def _look_through(text: str) -> None:
    """See to it that nothing is an alias, that there is not too much, and that nothing is nested so deep that putting
    it together would take for ever."""
    depth = nodes = 0
    for event in yaml.parse(text, Loader=LOADER):
        line = (event.start_mark.line if event.start_mark else 0) + 1
        nodes += isinstance(event, yaml.NodeEvent)
        if nodes > MOST_NODES:
            raise NotYaml(line, f"the file has more than {MOST_NODES:,} keys and values")
        if isinstance(event, yaml.AliasEvent):
            raise NotYaml(line, "aliases (*name) are not read; write the value out")
        depth += isinstance(event, yaml.CollectionStartEvent) - isinstance(event, yaml.CollectionEndEvent)
        if depth > DEEPEST_NESTING + 1:
            raise NotYaml(line, "nested too deeply")


def _value(node: yaml.Node, pointer: str, source_map: dict[str, int], depth: int) -> Any:
    source_map.setdefault(pointer, node.start_mark.line + 1)
    if depth > DEEPEST_NESTING:
        raise NotYaml(node.start_mark.line + 1, "nested too deeply")
    if not isinstance(node, yaml.ScalarNode) and node.tag not in _PLAIN:
        raise NotYaml(node.start_mark.line + 1, f"the tag {node.tag} is not read")
    if isinstance(node, yaml.MappingNode):
        return _mapping(node, pointer, source_map, depth)
    if isinstance(node, yaml.SequenceNode):
        return [_value(item, f"{pointer}/{place}", source_map, depth + 1) for place, item in enumerate(node.value)]
    return _scalar(node)


def _mapping(node: yaml.MappingNode, pointer: str, source_map: dict[str, int], depth: int) -> dict[str, Any]:
    result: dict[str, Any] = {}
    for key_node, value_node in node.value:
        line = key_node.start_mark.line + 1
        if not isinstance(key_node, yaml.ScalarNode):
            raise NotYaml(line, "a key must be a plain word")
        key = key_node.value
        if key in result:
            raise NotYaml(line, f"the key '{key}' stands here a second time")
        below = f"{pointer}/{escaped(key)}"
        source_map[below] = line
        result[key] = _value(value_node, below, source_map, depth + 1)
    return result


def _scalar(node: yaml.Node) -> Any:
    text, kind = str(node.value), node.tag.rpartition(":")[2]
    if kind in {"int", "float"}:
        try:
            return int(text) if kind == "int" else Decimal(text)
        except (InvalidOperation, ValueError) as error:
            raise NotYaml(node.start_mark.line + 1, f"'{text}' is not a plain decimal number") from error
    if kind in {"bool", "null"}:
        return _WORDS.get(text.lower(), text)
    if kind in {"str", "timestamp"}:
        return text
    raise NotYaml(node.start_mark.line + 1, f"the tag {node.tag} is not read")
