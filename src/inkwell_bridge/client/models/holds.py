"""Holds by cause, and what became of what was let go."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.bridges import Finding


class SuggestedCode(Answer):
    """A value for a key of the rulebook, and what speaks for it."""

    at: str
    value: str
    why: str


class OldestHeld(Answer):
    """The oldest document of a group."""

    id: int
    number: str
    placed_at: datetime | None


class HoldGroup(Answer):
    """Documents that wait for one thing, with the money behind them."""

    bridge: str
    bridge_name: str
    lane: str
    state: str
    cause: str
    cause_in_words: str
    aspect: str
    value: str
    mapped_at: str
    linked_as: str
    count: int
    amounts: dict[str, Decimal]
    oldest: OldestHeld
    finding: Finding
    suggestion: SuggestedCode | None


class OfferedContact(Answer):
    """A contact that a buyer may be; ``points`` of 100, and the reason for them."""

    id: str
    code: str
    name: str
    email: str
    postcode: str
    points: int
    reason: str


class ContactChoice(Answer):
    """Whom a document is to be made out to, and the contacts that may be meant, the likeliest first."""

    number: str
    name: str
    company: str
    email: str
    tax_number: str
    postcode: str
    offered: list[OfferedContact]
    loaded: bool


class Again(Answer):
    """Why some are held again, and how many."""

    text: str
    count: int


class Freed(Answer):
    """What would become of a group: of how many so many were planned."""

    of: int
    tried: int
    would_go: int
    left_out: int
    again: list[Again]


class LetGo(Answer):
    """How many were let go, and the first of them, to be followed."""

    released: int
    crossings: list[int]


class Became(Answer):
    """Where documents are now."""

    states: dict[str, int]
    again: list[Again]
