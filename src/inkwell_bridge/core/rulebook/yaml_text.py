"""A text of YAML in which single values are exchanged, and every other character stays."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, NamedTuple

import yaml

from inkwell_bridge.core.rulebook.yaml_lines import LOADER
from inkwell_bridge.core.rulebook.yaml_writing import INDENT, block, entry, flow, needs_lines, scalar


class _Spot(NamedTuple):
    """A value: the group or list that it is in (none for the whole), its key, its place there, and itself."""

    within: yaml.MappingNode | yaml.SequenceNode | None
    key: yaml.Node | None
    place: int
    node: yaml.Node


class YamlText:
    """A text, and where in it every value stands.

    Each method answers the new text. Where a value is written in a way that none of them knows (a key on lines of its
    own, several lists begun on one line), the answer may say something else: whoever asks reads it again to see.
    """

    def __init__(self, text: str) -> None:
        self._text = text
        self._root: Any = yaml.compose(text, Loader=LOADER)

    def with_value(self, at: Sequence[str], value: Any) -> str:
        """``value`` in place of the one that stands at a path."""
        spot = self._spot(at)
        in_line = spot.key is None or spot.within is None or bool(spot.within.flow_style) or not needs_lines(value)
        if in_line and _is_block(spot.node) and spot.key is not None:
            return self._in_place_of_block(spot, flow(value))
        if in_line:
            start, end = spot.node.start_mark.index, self._end(spot.node)
            gap = " " if start and self._text[start - 1] in ":-," else ""
            return f"{self._text[:start]}{gap}{flow(value)}{self._rest(end, len(flow(value)) - (end - start))}"
        return self._as_lines(spot, value)

    def with_entry(self, at: Sequence[str], value: Any) -> str:
        """``value`` as a new key of a group, its last one, or as a new place of a list."""
        node = self._spot(at[:-1]).node
        if isinstance(node, yaml.MappingNode):
            return self._with_key(node, at[-1], value, at_top=len(at) == 1)
        place = len(node.value) if at[-1] == "-" else int(at[-1])
        return self._with_place(node, place, flow(value))

    def without(self, at: Sequence[str]) -> str:
        """The text without what stands at a path; comments on lines of their own stay."""
        spot = self._spot(at)
        within = spot.within
        assert within is not None
        if len(within.value) == 1:
            # A block of nothing is no group and no list, so that what is left must be written out.
            return self.with_value(at[:-1], {} if isinstance(within, yaml.MappingNode) else [])
        if within.flow_style:
            return self._without_in_flow(spot, within)
        start = spot.key.start_mark.index if spot.key else self._dash(spot.node)
        end = self._line_end(self._end(spot.node))
        line = self._line_start(start)
        if self._text[line:start].strip():
            return self._without_first_of_line(spot, start, end)
        before, after = self._text[:line], self._text[end + 1 :]
        # Of two blank lines around it one goes with it.
        if before.endswith("\n\n") and after.startswith("\n"):
            after = after[1:]
        return before + after

    def _spot(self, at: Sequence[str]) -> _Spot:
        spot = _Spot(None, None, 0, self._root)
        for part in at:
            node: Any = spot.node
            if isinstance(node, yaml.MappingNode):
                spot = next(
                    _Spot(node, key, place, value) for place, (key, value) in enumerate(node.value) if key.value == part
                )
            else:
                spot = _Spot(node, None, int(part), node.value[int(part)])
        return spot

    def _end(self, node: yaml.Node) -> int:
        """Where a value ends. A block's own mark stands only where the next thing begins."""
        if _is_block(node):
            last = node.value[-1]
            return self._end(last[1] if isinstance(node, yaml.MappingNode) else last)
        start, end = node.start_mark.index, node.end_mark.index
        return start + len(self._text[start:end].rstrip())

    def _line_start(self, index: int) -> int:
        return self._text.rfind("\n", 0, index) + 1

    def _line_end(self, index: int) -> int:
        found = self._text.find("\n", index)
        return len(self._text) if found < 0 else found

    def _dash(self, node: yaml.Node) -> int:
        """The dash of a place in a list."""
        return self._text.rindex("-", 0, max(node.start_mark.index, 1))

    def _rest(self, index: int, longer: int) -> str:
        """All from here on, with a comment beside it where it stood, as far as there is room."""
        gap = re.match(r" +(?=#)", self._text[index : self._line_end(index)])
        if gap is None:
            return self._text[index:]
        return " " * max(1, gap.end() - longer) + self._text[index + gap.end() :]

    def _after_line(self, index: int, lines: Sequence[str]) -> str:
        """These lines after the one of ``index``."""
        end = self._line_end(index)
        return f"{self._text[:end]}\n{chr(10).join(lines)}{self._text[end:] or chr(10)}"

    def _header_end(self, key: yaml.Node) -> int:
        """Behind the colon of a key."""
        return self._text.index(":", self._end(key)) + 1

    def _in_place_of_block(self, spot: _Spot, said: str) -> str:
        """A value on the line of its key, in place of lines below it; a comment beside the key stays."""
        assert spot.key is not None
        header = self._header_end(spot.key)
        line, last = self._line_end(header), self._line_end(self._end(spot.node))
        return f"{self._text[:header]} {said}{self._text[header:line]}{self._text[last:]}"

    def _as_lines(self, spot: _Spot, value: Any) -> str:
        """A group or list on lines of its own below its key."""
        assert spot.key is not None
        header, start, end = self._header_end(spot.key), spot.node.start_mark.index, self._end(spot.node)
        lines = chr(10).join(block(value, spot.key.start_mark.column + INDENT))
        if _is_block(spot.node):
            return f"{self._text[: self._line_end(header)]}\n{lines}{self._text[end:]}"
        rest = self._text[max(header, end) : self._line_end(end)].rstrip()
        between = self._text[header:start].rstrip()
        return f"{self._text[:header]}{between}{rest}\n{lines}{self._text[self._line_end(end) :]}"

    def _with_key(self, node: yaml.MappingNode, name: str, value: Any, *, at_top: bool) -> str:
        if node.flow_style:
            return self._in_flow(node, len(node.value), f"{scalar(name)}: {flow(value)}")
        lines = entry(name, value, node.value[0][0].start_mark.column)
        # Sections of a rulebook stand apart where they do already.
        apart = [""] if at_top and "\n\n" in self._text and needs_lines(value) else []
        return self._after_line(self._end(node), [*apart, *lines])

    def _with_place(self, node: yaml.Node, place: int, said: str) -> str:
        if not _is_block(node):
            return self._in_flow(node, place, said)
        column, items = node.start_mark.column, node.value
        line = f"{' ' * column}- {said}"
        if place:
            return self._after_line(self._end(items[place - 1]), [line])
        start = self._line_start(self._dash(items[0]))
        return f"{self._text[:start]}{line}\n{self._text[start:]}"

    def _in_flow(self, node: yaml.Node, place: int, said: str) -> str:
        """Another entry between brackets."""
        entries: list[Any] = node.value
        if not entries:
            at, said = node.start_mark.index + 1, said
        elif place == len(entries):
            last = entries[-1]
            at, said = self._end(last[1] if isinstance(last, tuple) else last), f", {said}"
        else:
            one = entries[place]
            at, said = (one[0] if isinstance(one, tuple) else one).start_mark.index, f"{said}, "
        return f"{self._text[:at]}{said}{self._text[at:]}"

    def _without_in_flow(self, spot: _Spot, within: yaml.Node) -> str:
        entries: list[Any] = within.value
        starts = [(one[0] if isinstance(one, tuple) else one).start_mark.index for one in entries]
        ends = [self._end(one[1] if isinstance(one, tuple) else one) for one in entries]
        if spot.place + 1 < len(entries):
            return self._text[: starts[spot.place]] + self._text[starts[spot.place + 1] :]
        return self._text[: ends[spot.place - 1]] + self._text[ends[spot.place] :]

    def _without_first_of_line(self, spot: _Spot, start: int, end: int) -> str:
        """Without what stands behind the dash of a list: the next one takes its place there."""
        assert spot.within is not None
        one = spot.within.value[spot.place + 1]
        following = one[0].start_mark.index if spot.key else self._dash(one)
        line = self._line_start(start)
        comments = self._text[end + 1 : self._line_start(following)]
        return f"{self._text[:line]}{comments}{self._text[line:start]}{self._text[following:]}"


def _is_block(node: yaml.Node) -> bool:
    return isinstance(node, yaml.CollectionNode) and not node.flow_style
