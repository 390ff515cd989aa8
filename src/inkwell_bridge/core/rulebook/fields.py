"""Field rules: a value that is fixed, copied, looked up in a table or computed; for headers, lines and dimensions."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import cached_property, lru_cache
from typing import Any, NamedTuple, Self

from pydantic import model_validator

from inkwell_bridge.core.books import PUT_DOWN_TO
from inkwell_bridge.core.expressions import NotEvaluated
from inkwell_bridge.core.expressions.expression import Names, compiled
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.levels import Facts, Levelled
from inkwell_bridge.core.rulebook.writing import language_of, written_amount, written_date
from inkwell_bridge.core.values import LONGEST_TEXT, Code, Text, Value


class FieldRule(Levelled):
    """A value.

    Shape: ``fixed``, an expression under ``from``, or a ``template``: a text in which each ``{...}`` is an expression
    or the name of one of ``parts``. What comes of it is looked up in ``table`` where there is one; what is empty, or
    not in the table, takes ``default``, which alone will do as well. The levels go before all of this. ``date`` and
    ``amount`` are patterns of Unicode (CLDR, technical standard 35) by which a date of ISO 8601, or an amount in minor
    units, is written in ``language``.
    """

    fixed: Text = ""
    source: Text = ""
    template: Text = ""
    parts: dict[Code, FieldRule] = {}
    date: Text = ""
    amount: Text = ""
    language: Text = "en"
    table: dict[str, Text] = {}
    default: Text = ""

    @model_validator(mode="before")
    @classmethod
    def _plain_text(cls, given: Any) -> Any:
        """A plain text is fixed; ``from`` is a word that Python keeps for itself."""
        if isinstance(given, str):
            return {"fixed": given}
        if isinstance(given, dict) and "from" in given:
            return {"source": given["from"], **{name: value for name, value in given.items() if name != "from"}}
        return given

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        ways = [bool(self.fixed), bool(self.source), bool(self.template)].count(True)
        if ways > 1 or not (ways or self.default or self.overrides):
            raise ValueError("one of a fixed value, an expression under from, and a template")
        pieces_of(self.template)
        if self.date or self.amount:
            language_of(self.language)
        return self

    def of(self, names: Names, evaluation: Mapping[str, Any], facts: Facts, *, longest: int = LONGEST_TEXT) -> str:
        """The value for what is seen, of at most ``longest`` characters; ``facts`` are what its levels go by.

        Raises:
            NotEvaluated: the expression came to nothing, or to more than fits.
        """
        level = self.exception(facts)
        if level is not None:
            text = level.gave
        elif self.fixed or not (self.source or self.template):
            text = self.fixed or self.default
        else:
            found = (
                self._filled_in(names, evaluation, facts) if self.template
                else self._found(self.source, names, evaluation)
            )  # fmt: skip
            text = (self.table.get(found, self.default) if self.table else found) or self.default
        if len(text) > longest:
            told = self.source or self.template or self.fixed
            raise NotEvaluated(f"{told[:200]!r} came to {len(text)} characters, where at most {longest} fit")
        return text

    def _found(self, expression: str, names: Names, evaluation: Mapping[str, Any]) -> str:
        return self._written(compiled(expression, names).of(evaluation), str(evaluation["order.currency"]))

    def _filled_in(self, names: Names, evaluation: Mapping[str, Any], facts: Facts) -> str:
        texts = (
            piece.text if not piece.asked else self.parts[piece.text].of(names, evaluation, facts)
            if piece.text in self.parts
            else self._found(piece.text, names, evaluation)
            for piece in pieces_of(self.template)
        )  # fmt: skip
        return "".join(texts)

    def _written(self, found: bool | str | int, currency: str) -> str:
        if isinstance(found, bool):
            return "true" if found else "false"
        if self.date and found:
            return written_date(str(found), self.date, self.language)
        if self.amount and isinstance(found, int):
            return written_amount(found, currency, self.amount, self.language)
        return str(found)

    def codes(self, at: str) -> Iterator[tuple[str, str]]:
        """Every value that it can come to and that is written down, with its JSON Pointer."""
        yield from self.exceptions(at)
        for name, value in (("fixed", self.fixed), ("default", self.default)):
            if value:
                yield f"{at}/{name}", value
        for met, value in self.table.items():
            yield f"{at}/table/{escaped(met)}", value

    def expressions(self, at: str) -> Iterator[tuple[str, str]]:
        """Its expressions, each with its JSON Pointer."""
        if self.source:
            yield f"{at}/from", self.source
        for piece in pieces_of(self.template):
            if piece.asked and piece.text not in self.parts:
                yield f"{at}/template", piece.text
        for name, part in self.parts.items():
            yield from part.expressions(f"{at}/parts/{escaped(name)}")


class Piece(NamedTuple):
    """A piece of a template: a text as it stands, or one that is ``asked`` for."""

    text: str
    asked: bool


# A doubled brace stands for itself.
_BRACES = re.compile(r"(?P<twice>\{\{|\}\})|\{(?P<asked>[^{}]+)\}|(?P<alone>[{}])")


@lru_cache(maxsize=512)
def pieces_of(template: str) -> tuple[Piece, ...]:
    """What a template is made of.

    Raises:
        ValueError: a brace stands alone.
    """
    pieces, done = [], 0
    for found in _BRACES.finditer(template):
        if found["alone"]:
            raise ValueError(f"each {{ of a template closed by a }}, and one that is meant as such doubled: {template}")
        pieces.append(Piece(template[done : found.start()], asked=False))
        pieces.append(Piece(found["twice"][0], asked=False) if found["twice"] else Piece(found["asked"], asked=True))
        done = found.end()
    return tuple(piece for piece in (*pieces, Piece(template[done:], asked=False)) if piece.text)


class FieldRules(Value):
    """Fields of the documents' headers and lines; the order's number, its link and our own reference stand there
    always.

    Shape: ``further`` and ``line_further`` are fields that the books keep beside their own, by their name there.
    """

    text: FieldRule | None = None
    terms: FieldRule | None = None
    organisational_unit: FieldRule | None = None
    price_list: FieldRule | None = None
    delivery_method: FieldRule | None = None
    sales_person: FieldRule | None = None
    line_text: FieldRule | None = None
    further: dict[Code, FieldRule] = {}
    line_further: dict[Code, FieldRule] = {}

    @property
    def every(self) -> Iterator[tuple[str, FieldRule]]:
        """Every rule for a field, by where it stands (JSON Pointer)."""
        for name in ("text", "terms", *PUT_DOWN_TO, "line_text"):
            if (rule := getattr(self, name)) is not None:
                yield f"/fields/{name}", rule
        for group in ("further", "line_further"):
            for name, rule in getattr(self, group).items():
                yield f"/fields/{group}/{escaped(name)}", rule

    @property
    def put_down_to(self) -> dict[str, FieldRule]:
        """What documents are put down to by rule, by the name of each field."""
        rules = ((name, getattr(self, name)) for name in PUT_DOWN_TO)
        return {name: rule for name, rule in rules if rule is not None}


class WarehouseRules(Levelled):
    """The warehouse that goods leave from: by the sales side's location, and by what else goes before that."""

    default: Text = ""

    @cached_property
    def any(self) -> bool:
        """Whether the rules name a warehouse at all."""
        return bool(self.default or self.overrides)

    def of(self, facts: Facts) -> str:
        """The warehouse of a line, or of a whole order."""
        level = self.exception(facts)
        return level.gave if level else self.default

    def codes(self) -> Iterator[tuple[str, str]]:
        """Every warehouse that it names, with its JSON Pointer."""
        yield from self.exceptions("/warehouses")
        if self.default:
            yield "/warehouses/default", self.default
