"""Conditions: an expression that is true or false, or several joined with ``all``, ``any`` and ``not``."""

from __future__ import annotations

import builtins
from collections.abc import Iterator, Mapping
from typing import Any

from pydantic import model_validator

from inkwell_bridge.core.expressions.expression import Names, compiled
from inkwell_bridge.core.values import Text, Value


class Condition(Value):
    """What must be true; exactly one of its parts is there."""

    expression: Text = ""
    all: tuple[Condition, ...] = ()
    any: tuple[Condition, ...] = ()
    none: tuple[Condition, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _plain_text(cls, given: Any) -> Any:
        """A plain text is an expression."""
        return {"expression": given} if isinstance(given, str) else given

    def holds(self, names: Names, evaluation: Mapping[str, Any]) -> bool:
        """Whether it is true of what is seen.

        Raises:
            NotEvaluated: an expression came to nothing.
        """
        if self.all:
            return all_of(part.holds(names, evaluation) for part in self.all)
        if self.any:
            return any_of(part.holds(names, evaluation) for part in self.any)
        if self.none:
            return not any_of(part.holds(names, evaluation) for part in self.none)
        return compiled(self.expression, names).of(evaluation) is True

    def expressions(self, at: str) -> Iterator[tuple[str, str]]:
        """Every expression in it with its JSON Pointer; ``at`` is that of the condition."""
        if self.expression:
            yield at, self.expression
        for name, parts in (("all", self.all), ("any", self.any), ("none", self.none)):
            for place, part in enumerate(parts):
                yield from part.expressions(f"{at}/{name}/{place}")


# The fields of a condition are named as people say them, which hides the functions.
all_of, any_of = builtins.all, builtins.any
