"""Proposals of rules, learnt from past orders and what the books hold for them."""

from __future__ import annotations

from datetime import date, datetime

from inkwell_bridge.client.models.answer import Answer, AskedWork


class LearntRule(Answer):
    """A rule by its JSON Pointer, with the examples that speak for it and against it; one without ``value`` stays open,
    and ``note`` says why."""

    at: str
    value: str
    supported: int | None
    contradicted: int
    note: str


class ExampleDiffers(Answer):
    """An order of which the books hold something else than the proposed rules make."""

    number: str
    books_number: str
    differs: list[str]


class ProposalHead(AskedWork):
    """How far a proposal is; of ``examples`` orders the rules explain ``explained``, once it has ended."""

    bridge: str
    first: date
    last: date
    least: int
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    unread: int
    examples: int | None
    explained: int | None


class Proposal(ProposalHead):
    """A proposal with what was learnt: the rulebook as YAML, its rules, and the first of those it does not explain."""

    text: str
    rules: list[LearntRule]
    exceptions: list[ExampleDiffers]
    unexplained: int
