"""Field rules: a value that is fixed, copied, looked up in a table or computed; for headers, lines and dimensions."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Self

from pydantic import model_validator

from inkwell_bridge.core.expressions.expression import Names, compiled
from inkwell_bridge.core.rulebook.writing import language_of, written_amount, written_date
from inkwell_bridge.core.values import Text, Value


class FieldRule(Value):
    """A value.

    Shape: ``fixed``, or an expression under ``from``, whose text is looked up in ``table`` where there is one; what
    is empty, or not in the table, takes ``default``. ``date`` and ``amount`` are patterns of Unicode (CLDR, technical
    standard 35) by which a date of ISO 8601, or an amount in minor units, is written in ``language``.
    """

    fixed: Text = ""
    source: Text = ""
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
        if bool(self.fixed) == bool(self.source):
            raise ValueError("either a fixed value or an expression under from")
        if self.date or self.amount:
            language_of(self.language)
        return self

    def of(self, names: Names, seen: Mapping[str, Any]) -> str:
        """The value for what is seen.

        Raises:
            NotEvaluated: the expression came to nothing.
        """
        if self.fixed:
            return self.fixed
        found = compiled(self.source, names).of(seen)
        text = self._written(found, str(seen.get("order.currency", "")))
        return (self.table.get(text, self.default) if self.table else text) or self.default

    def _written(self, found: bool | str | int, currency: str) -> str:
        if isinstance(found, bool):
            return "true" if found else "false"
        if self.date and found:
            return written_date(str(found), self.date, self.language)
        if self.amount and isinstance(found, int):
            return written_amount(found, currency, self.amount, self.language)
        return str(found)

    def expressions(self, at: str) -> Iterator[tuple[str, str]]:
        """Its expression with its JSON Pointer, where it has one."""
        if self.source:
            yield f"{at}/from", self.source


class FieldRules(Value):
    """Fields of the documents' headers and lines; the order's number, its link and our mark stand there always."""

    text: FieldRule | None = None
    terms: FieldRule | None = None
    line_text: FieldRule | None = None


class WarehouseRules(Value):
    """The warehouse by the sales side's location."""

    default: Text = ""
    by_location: dict[str, Text] = {}

    def of(self, location: str) -> str:
        """The warehouse of a location."""
        return self.by_location.get(location, self.default)
