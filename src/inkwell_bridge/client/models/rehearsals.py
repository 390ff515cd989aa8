"""Rules changed value by value, rehearsals, and coverage."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.client.models.answer import Answer, AskedWork
from inkwell_bridge.client.models.bridges import Finding


class Edited(Answer):
    """A text of rules after an edit: what it says as values, what it builds on, both together, and what is wrong."""

    text: str
    values: dict[str, Any] | None
    inherited: dict[str, Any] | None
    effective: dict[str, Any] | None
    findings: list[Finding]


class Built(Answer):
    """A bridge that builds on a base, and what its newest rules say themselves."""

    bridge: str
    values: dict[str, Any] | None


class EditedBase(Edited):
    """A text of base rules after an edit, with the bridges that build on it; ``effective`` is absent."""

    bridges: list[Built]


class RehearsalHead(AskedWork):
    """How far a rehearsal is; ``since`` is the version that it compares with."""

    bridge: str
    rulebook: int
    since: int | None
    first: date
    last: date
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    changed: int


class OutcomeCount(Answer):
    """So many documents with one outcome before, and this one after."""

    before: str
    after: str
    count: int


class TotalChange(Answer):
    """What documents come to under one account, tax code or value of a dimension: net (or what moved), and tax."""

    of: str
    code: str
    currency: str
    before: Decimal
    after: Decimal
    tax_before: Decimal
    tax_after: Decimal


class FindingCount(Answer):
    """A finding that comes or goes."""

    id: str
    level: str
    came: int
    went: int
    text: str


class ConditionHits(Answer):
    """An expression of a condition, the orders that it is true of, and those for which it came to nothing."""

    expression: str
    orders: int
    unclear: int


class OddOne(Answer):
    """An order that stands for others: for what, and how many share it."""

    number: str
    why: str
    orders: int


class Rehearsal(RehearsalHead):
    """A rehearsal with what it came to."""

    outcomes: list[OutcomeCount]
    totals: list[TotalChange]
    findings: list[FindingCount]
    conditions: list[ConditionHits] = []
    odd_ones: list[OddOne] = []
    further: dict[str, int] = {}


class PlanChange(Answer):
    """A value of a plan that is another; ``at`` is a JSON Pointer into it."""

    at: str
    before: str | None
    after: str | None


class ChangedPlan(Answer):
    """A document whose plan would be another; ``why`` it would be held or left out, where it was not."""

    crossing: int
    kind: str
    number: str
    before: str
    after: str
    why: str
    changes: list[PlanChange]


class PlanOf(Answer):
    """A plan: its outcome, documents, and reasons."""

    outcome: str
    left_out_by: str | None
    documents: list[dict[str, Any]]
    reasons: list[dict[str, Any]]
    findings: list[Finding]


class BothPlans(Answer):
    """A document under both versions."""

    kind: str
    number: str
    order: dict[str, Any]
    before: PlanOf | None
    after: PlanOf
    changes: list[PlanChange]


class RuleUse(Answer):
    """A rule that answered for a value, what it gave, and for how many orders."""

    rule: str
    gave: str
    orders: int


class RuleSuggestion(Answer):
    """What would map a value: a key of the rulebook, the value for it, and what speaks for that."""

    at: str
    value: str
    why: str


class MetValue(Answer):
    """A value that orders hold: how often, with how much money, and what the rules make of it."""

    aspect: str
    value: str
    standing: str
    orders: int
    unmapped: int
    amounts: dict[str, Decimal]
    rules: list[RuleUse]
    rates: list[Decimal]
    examples: list[str]
    suggestion: RuleSuggestion | None
