"""The odd ones of many orders: one of each kind that the rules treat differently, so that a few stand for all."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import NamedTuple

from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.values import Said, Text, Value

MOST_TRAITS = 2_000
MOST_CHOSEN = 25


class OddOne(Value):
    """An order that stands for others: ``why`` says for what, ``orders`` how many share that with it."""

    number: Text
    why: Said
    orders: int


class _Trait(NamedTuple):
    """Something that a rule decided of an order: a key by which orders share it, and what it says."""

    key: str
    text: str


class OddOnes:
    """Orders that were added, by what the rules decided of them. Memory grows with rules, never with orders."""

    def __init__(self) -> None:
        self._counts: Counter[str] = Counter()
        self._texts: dict[str, str] = {}
        # The first order that each trait was met on, and all traits of that order.
        self._examples: dict[str, tuple[str, frozenset[str]]] = {}

    def add(self, number: str, plan: Plan) -> None:
        """Count one order."""
        traits = {trait.key: trait.text for trait in _traits(plan)}
        keys = frozenset(traits)
        for key, text in traits.items():
            if key not in self._examples:
                if len(self._examples) >= MOST_TRAITS:
                    continue
                self._examples[key] = (number, keys)
                self._texts[key] = text
            self._counts[key] += 1

    def chosen(self, most: int = MOST_CHOSEN) -> tuple[OddOne, ...]:
        """So few orders that each trait is on one of them, the rarest first; at most so many."""
        covered: set[str] = set()
        found: list[OddOne] = []
        for key, count in sorted(self._counts.items(), key=lambda one: (one[1], one[0])):
            if key in covered or len(found) >= most:
                continue
            number, keys = self._examples[key]
            covered |= keys
            found.append(OddOne(number=number, why=self._texts[key], orders=count))
        return tuple(found)


def _traits(plan: Plan) -> Iterator[_Trait]:
    if plan.outcome is Outcome.LEFT_OUT:
        yield _Trait(f"left out by {plan.left_out_by}", f"Left out by {plan.left_out_by}.")
    for finding in plan.findings:
        if finding.level is not Level.NOTE:
            yield _Trait(finding.id, finding.text)
    for document in plan.documents:
        yield _Trait(f"document {document.role}", f"It becomes: {document.role}.")
    for reason in plan.reasons:
        # What a law of the planner says is of amounts, and another on each order.
        if reason.rule.startswith("/"):
            yield _Trait(reason.rule, reason.text)
