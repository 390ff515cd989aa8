"""One expression: compiled against the names and types it may use, and evaluated.

CEL always ends; its implementation here (cel-expr-python) bounds nesting and rounds of evaluation, but not how long a
text may grow: joined to itself in a macro it doubles, and with each macro more. So macros and joins are counted when an
expression is written, which bounds what any of it can come to. CEL has no exact decimals: amounts come to it as whole
numbers of the minor unit, and no expression makes an amount.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from cel_expr_python import cel

from inkwell_bridge.core.errors import InkwellError

LONGEST = 1000
# Three macros that each join twice make a text at most 27 times as long. Of the largest document that is read (a
# thousand lines of the longest texts, 2 MB) that is some 50 MB, in a third of a second.
MOST_MACROS, MOST_JOINED = 3, 6
# What all expressions of one document may take together, in steps: a rule may be asked for each of a thousand lines.
# Two to three million steps take a second. Not seconds, so that a document comes to the same on every machine.
MOST_STEPS = 10_000_000
# Where the implementation of CEL gives one evaluation up.
_MOST_ROUNDS = 10_000
_CHARACTERS_A_STEP = 100
_QUOTED = re.compile(r"""("(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')""")
# What may stand between two words of CEL: space, and comments to the end of a line.
_GAP = r"(?:\s|//[^\n]*\n)*"
_MACRO = re.compile(rf"\.{_GAP}(map|filter|all|exists|exists_one){_GAP}\(")
# Comments, raw texts and texts over several lines, in which a quotation mark means something else than elsewhere.
_OTHER_QUOTES = re.compile(r"""//|[rR][bB]?["']|\"{3}|'{3}""")
_PLACE = re.compile(r"<input>:\d+:(\d+): ([^\n]*)")
# A number with a point, outside of quoted text: it would be compared with minor units, and nobody would notice.
_POINTED = re.compile(r"""("[^"]*"|'[^']*')|(\d+\.\d*|\d*\.\d+)""")
# What looks like one of our names, also in a text: asking for too much does no harm.
_NAME = re.compile(r"\b[a-z]+\.[a-z_]+")
_DOUBLE = "expected no number with a point: amounts are whole numbers of the minor unit, such as 1999 for 19.99"


class NotUsable(InkwellError):
    """An expression that cannot be used; the text says what is wrong with it, and where."""


class NotEvaluated(InkwellError):
    """An expression that came to nothing for one document, such as a field of a line that it does not have."""


class Allowance:
    """The steps that the expressions of one document may still take together.

    One evaluation is bounded already; without this, a costly one for each line of a long order would keep a worker, or
    whoever tries the order, for minutes.
    """

    def __init__(self, steps: int = MOST_STEPS) -> None:
        self.steps = steps
        self._sizes: dict[int, tuple[Any, int]] = {}

    def take(self, expression: Expression, values: Iterable[Any]) -> None:
        """Take off what an evaluation may cost at the most.

        Raises:
            NotEvaluated: there is not enough left.
        """
        self.steps -= expression.most_steps(sum(map(self._size, values)))
        if self.steps < 0:
            text = "the rules before it ask for more than one document may take; let fewer of them go through all lines"
            raise NotEvaluated(f"{expression.source!r} was not evaluated: {text}")

    def _size(self, value: Any) -> int:
        if not isinstance(value, list | dict):
            return _size(value)
        # The lines of an order are the same list for each rule; kept beside the size, it is not taken for another.
        found = self._sizes.get(id(value))
        if found is None:
            found = self._sizes[id(value)] = (value, _size(value))
        return found[1]


def _size(value: Any) -> int:
    """How many values something holds, long texts counting for several."""
    if isinstance(value, dict):
        return 1 + sum(_size(one) for one in value.values())
    if isinstance(value, list):
        return 1 + sum(map(_size, value))
    return 1 + (len(value) // _CHARACTERS_A_STEP if isinstance(value, str) else 0)


@dataclass(frozen=True, slots=True, eq=False)
class Names:
    """What expressions may name: each name with its type in CEL."""

    types: tuple[tuple[str, Any], ...]

    @property
    def known(self) -> tuple[str, ...]:
        """The names alone."""
        return tuple(name for name, _ in self.types)


@dataclass(frozen=True, slots=True)
class Expression:
    """A compiled expression; ``kind`` is ``bool``, ``text`` or ``number``, ``asks`` the names that it may ask for."""

    source: str
    kind: str
    asks: tuple[str, ...]
    _macros: int
    _joins: bool
    _program: Any

    def most_steps(self, size: int) -> int:
        """What an evaluation takes at the most of values of this size: to hand over, to go round in, to join."""
        rounds = _MOST_ROUNDS if self._macros > 1 and size > 1 else size
        return size + rounds + (size * 3**self._macros if self._joins else 0)

    def of(self, evaluation: Mapping[str, Any]) -> bool | str | int:
        """What it comes to.

        Raises:
            NotEvaluated: it comes to nothing for what is seen, or the allowance of the document is used up.
        """
        data = {name: evaluation[name] for name in self.asks}
        allowance: Allowance = getattr(evaluation, "allowance", None) or Allowance()
        allowance.take(self, data.values())
        try:
            found = self._program.eval(data=data)
        except RuntimeError as error:
            raise NotEvaluated(f"{self.source!r} took too long to evaluate") from error
        if found.type() == cel.Type.ERROR:
            raise NotEvaluated(f"{self.source!r} came to nothing: {found.value()}")
        return found.value()  # type: ignore[no-any-return]


@lru_cache(maxsize=4096)
def compiled(source: str, names: Names) -> Expression:
    """An expression ready for use.

    Raises:
        NotUsable: its syntax, a name or a type is wrong, or it is too long.
    """
    if len(source) > LONGEST:
        raise NotUsable(f"expected at most {LONGEST} characters, got {len(source)}")
    if any(pointed for _, pointed in _POINTED.findall(source)):
        raise NotUsable(_DOUBLE)
    macros, joins = _only_so_much(source)
    try:
        program = _environment(names).compile(source)
    except RuntimeError as error:
        raise NotUsable(_told(str(error))) from error
    kind = _KINDS.get(program.return_type().name())
    if kind is None:
        raise NotUsable("expected true or false, a text, or a whole number")
    named = set(_NAME.findall(source))
    asks = tuple(name for name in names.known if name in named)
    return Expression(source, kind, asks, macros, joins, program)


def _only_so_much(source: str) -> tuple[int, bool]:
    """See to it that nothing in an expression can grow without bound: its macros, and whether it joins in them.

    Raises:
        NotUsable: it has too many macros, or joins too much in them.
    """
    # Where it is not plain what is quoted, all of it counts: rather too much than something that hides in quotes.
    bare = source if _OTHER_QUOTES.search(source) else _QUOTED.sub("''", source)
    macros, joined = len(_MACRO.findall(bare)), bare.count("+")
    if macros > MOST_MACROS:
        raise NotUsable(f"expected at most {MOST_MACROS} of map, filter, all, exists and exists_one, got {macros}")
    if macros and joined > MOST_JOINED:
        raise NotUsable(f"expected at most {MOST_JOINED} of + beside map, filter, all or exists, got {joined}")
    return macros, bool(macros and joined)


_KINDS = {"BOOL": "bool", "STRING": "text", "INT": "number", "DYN": "any"}


@lru_cache(maxsize=8)
def _environment(names: Names) -> Any:
    return cel.NewEnv(variables=dict(names.types))


def _told(message: str) -> str:
    found = _PLACE.search(message)
    if found is None:
        return "the expression is nested too deeply" if "recursion" in message else message[:200]
    place, text = found.groups()
    return f"{text.replace(' (in container ' + chr(39) * 2 + ')', '')[:200]} (character {place})"
