"""Bridges, their rules, and their set-up."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from inkwell_bridge.client.models.answer import Answer


class Timetable(Answer):
    """When a bridge runs by itself."""

    rule: str
    time_zone: str
    next_at: datetime


class Lane(Answer):
    """One kind of document over a bridge."""

    kind: str
    on: bool
    read_up_to: datetime | None


class Bridge(Answer):
    """What carries from one connection to another."""

    slug: str
    name: str
    source: str
    books: str
    company: str
    starts_on: date | None
    lanes: list[Lane]
    timetable: Timetable | None
    rulebook_in_force: int | None


class Finding(Answer):
    """One thing a check has to say."""

    id: str
    level: str
    text: str
    hint: str
    at: str
    line: int | None
    cause: str | None


class RulebookHead(Answer):
    """A version of a bridge's rules, without its text."""

    number: int
    author: str
    created_at: datetime
    published_at: datetime | None


class Rulebook(RulebookHead):
    """A version of a bridge's rules."""

    text: str
    findings: list[Finding]


class Step(Answer):
    """One step of a bridge's set-up; ``needed``: nothing runs without it."""

    id: str
    title: str
    state: str
    text: str
    why: str
    needed: bool


class Tried(Answer):
    """An order as it is now, and what it would become; nothing was sent."""

    number: str
    rulebook: int
    outcome: str
    left_out_by: str
    order: dict[str, Any]
    contact: dict[str, Any] | None
    documents: list[dict[str, Any]]
    reasons: list[dict[str, Any]]
    findings: list[Finding]
