"""A month of a company: what is open in it, what was accepted, and its closing."""

from __future__ import annotations

import datetime as _dt

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.carriage import Totals
from inkwell_bridge.client.models.tie_out import Differing


class OpenAmount(Answer):
    """What an open item comes to in one place of the sheet."""

    table: str
    section: str
    currency: str
    tax_code: str
    tender: str
    account: str
    totals: Totals


class OpenItem(Answer):
    """One open reason of a month; ``fingerprint`` is of its documents and amounts as they are."""

    reason: str
    detail: str
    documents: int
    amounts: list[OpenAmount]
    fingerprint: str


class AcceptedDifference(Answer):
    """An open item that somebody accepted; it ``stands`` while it is what was accepted."""

    id: int
    reason: str
    detail: str
    item: OpenItem
    note: str
    by: str
    at: _dt.datetime
    stands: bool


class SaidBy(Answer):
    """Who did something about a month, when, and with which note."""

    by: str
    at: _dt.datetime
    note: str


class Closing(Answer):
    """A month as it was closed; ``changed`` is how many documents are otherwise in it by now."""

    id: int
    company: str
    month: str
    number: int
    checksum: str
    note: str
    closed_by: str
    closed_at: _dt.datetime
    reopening: SaidBy | None
    changed: int


class ChangedSums(Answer):
    """What each side of a section changed by since its month was closed."""

    section: str
    currency: str
    source: Totals
    books: Totals


class Month(Answer):
    """A month of a company: ``state`` is open, proposed or closed; nobody has accepted ``left`` of the items."""

    company: str
    month: str
    state: str
    over: bool
    two_close: bool
    ties: bool
    items: list[OpenItem]
    left: int
    accepted: list[AcceptedDifference]
    proposal: SaidBy | None
    closing: Closing | None
    since: list[ChangedSums]
    differing_since: list[Differing]


class ChangedDocument(Answer):
    """A source document, and what it changed a closed month by."""

    id: int
    kind: str
    number: str
    bridge: str
    state: str
    currency: str
    since: _dt.datetime
    source: Totals
    books: Totals


class ChangedPage(Answer):
    """A page of them, and where the next begins."""

    documents: list[ChangedDocument]
    after: int | None


class BrokenLink(Answer):
    """A closing at which the chain does not hold."""

    number: int
    why: str


class Chain(Answer):
    """Whether the closings of a company are what they were."""

    company: str
    closings: int
    holds: bool
    broken: list[BrokenLink]
