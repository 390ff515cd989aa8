"""Field rules: a value that is fixed, copied, looked up in a table or computed; for headers, lines and dimensions."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import cached_property, lru_cache
from typing import Any, NamedTuple, Self

from pydantic import model_validator

from inkwell_bridge.core.books import HEADER_CODES
from inkwell_bridge.core.expressions import NotEvaluated
from inkwell_bridge.core.expressions.expression import Names, compiled
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.levels import Facts, Levelled
from inkwell_bridge.core.rulebook.writing import language_of, written_amount, written_date
from inkwell_bridge.core.values import LONGEST_TEXT, Code, Text, Value

_ENGLISH = "en"


class Seen(NamedTuple):
    """What a rule for a field sees: the names that expressions may use and what they come to, what levels go by, and
    the language that dates and amounts are written in where the rule names none."""

    names: Names
    evaluation: Mapping[str, Any]
    facts: Facts
    language: str = _ENGLISH


class FieldRule(Levelled):
    """A value.

    Shape: ``fixed``, an expression under ``from``, or a ``template``: a text in which each ``{...}`` is an expression
    or the name of one of ``parts``. What comes of it is looked up in ``table`` where there is one; what is empty, or
    not in the table, takes ``default``, which alone will do as well. ``in_language`` is the whole rule for buyers of
    another language; the levels go before all of this. ``date`` and ``amount`` are patterns of Unicode (CLDR, technical
    standard 35) by which a date of ISO 8601, or an amount in minor units, is written in ``language``: that of
    ``in_language`` where nothing is said, English else.
    """

    fixed: Text = ""
    source: Text = ""
    template: Text = ""
    parts: dict[Code, FieldRule] = {}
    date: Text = ""
    amount: Text = ""
    language: Text = ""
    table: dict[str, Text] = {}
    default: Text = ""
    in_language: dict[Code, FieldRule] = {}

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
            language_of(self.language or _ENGLISH)
        for language in self.in_language:
            language_of(language)
        return self

    def of(self, seen: Seen, *, longest: int = LONGEST_TEXT) -> str:
        """The value for what is seen, of at most ``longest`` characters.

        Raises:
            NotEvaluated: the expression came to nothing, or to more than fits.
        """
        level = self.exception(seen.facts)
        spoken = next((one for one in seen.facts.language if one in self.in_language), "")
        if level is None and spoken:
            return self.in_language[spoken].of(seen._replace(language=spoken), longest=longest)
        text = level.gave if level else self._otherwise(seen)
        if len(text) > longest:
            told = self.source or self.template or self.fixed
            raise NotEvaluated(f"{told[:200]!r} came to {len(text)} characters, where at most {longest} fit")
        return text

    def _otherwise(self, seen: Seen) -> str:
        """The value where no level has one, in the rule's own language."""
        if not (self.source or self.template):
            return self.fixed or self.default
        found = self._filled_in(seen) if self.template else self._found(self.source, seen)
        return (self.table.get(found, self.default) if self.table else found) or self.default

    def _found(self, expression: str, seen: Seen) -> str:
        found = compiled(expression, seen.names).of(seen.evaluation)
        return self._written(found, str(seen.evaluation["order.currency"]), self.language or seen.language)

    def _filled_in(self, seen: Seen) -> str:
        texts = (
            piece.text if not piece.asked else self.parts[piece.text].of(seen) if piece.text in self.parts
            else self._found(piece.text, seen)
            for piece in pieces_of(self.template)
        )  # fmt: skip
        return "".join(texts)

    def _written(self, found: bool | str | int, currency: str, language: str) -> str:
        if isinstance(found, bool):
            return "true" if found else "false"
        if self.date and found:
            return written_date(str(found), self.date, language)
        if self.amount and isinstance(found, int):
            return written_amount(found, currency, self.amount, language)
        return str(found)

    def codes(self, at: str) -> Iterator[tuple[str, str]]:
        """Every value that it can come to and that is written down, with its JSON Pointer."""
        yield from self.exceptions(at)
        for name, value in (("fixed", self.fixed), ("default", self.default)):
            if value:
                yield f"{at}/{name}", value
        for met, value in self.table.items():
            yield f"{at}/table/{escaped(met)}", value
        for language, rule in self.in_language.items():
            yield from rule.codes(f"{at}/in_language/{escaped(language)}")

    def expressions(self, at: str) -> Iterator[tuple[str, str]]:
        """Its expressions, each with its JSON Pointer."""
        if self.source:
            yield f"{at}/from", self.source
        for piece in pieces_of(self.template):
            if piece.asked and piece.text not in self.parts:
                yield f"{at}/template", piece.text
        for group in ("parts", "in_language"):
            for name, rule in getattr(self, group).items():
                yield from rule.expressions(f"{at}/{group}/{escaped(name)}")


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
    language: FieldRule | None = None
    line_text: FieldRule | None = None
    further: dict[Code, FieldRule] = {}
    line_further: dict[Code, FieldRule] = {}

    @property
    def every(self) -> Iterator[tuple[str, FieldRule]]:
        """Every rule for a field, by where it stands (JSON Pointer)."""
        for name in ("text", "terms", *HEADER_CODES, "line_text"):
            if (rule := getattr(self, name)) is not None:
                yield f"/fields/{name}", rule
        for group in ("further", "line_further"):
            for name, rule in getattr(self, group).items():
                yield f"/fields/{group}/{escaped(name)}", rule

    @property
    def header_codes(self) -> dict[str, FieldRule]:
        """What the header of documents bears by rule, by the name of each field."""
        rules = ((name, getattr(self, name)) for name in HEADER_CODES)
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
