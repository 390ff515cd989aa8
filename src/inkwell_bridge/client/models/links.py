"""Which product is which item, which customer is which contact."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.connections import Name


class LinkTarget(Answer):
    """Where a link leads, and how many of it one sold is."""

    id: str
    code: str
    quantity: Decimal
    share: Decimal | None
    rule: str


class Linked(Name):
    """One of the sales side, with where it leads."""

    state: str
    links: list[LinkTarget]


class LinkCounts(Answer):
    """How many are linked, have no counterpart, and are open; ``matching``: the rules are still linking."""

    linked: int
    none: int
    open: int
    version: int
    matching: bool


class Offered(Answer):
    """An item or contact that a suggestion leads to."""

    id: str
    code: str
    name: str
    email: str
    postcode: str
    quantity: Decimal
    share: Decimal | None


class Suggestion(Answer):
    """What one may be, with points of 100 and the reason for them."""

    targets: list[Offered]
    points: int
    reason: str


class Question(Answer):
    """One that is not linked yet."""

    entry: Name
    suggestions: list[Suggestion]


class LinkChange(Answer):
    """One change of links."""

    id: int
    what: str
    at: datetime
    person: str
    text: str
    undone: bool


class BadRow(Answer):
    """A row of a table that cannot be taken; row 1 is the heading."""

    row: int
    column: str
    text: str


class ImportPreview(Answer):
    """What an import would change, or has changed; ``bad`` names the first of the ``bad_rows``."""

    rows: int
    added: int
    changed: int
    unchanged: int
    unanswered: int
    bad_rows: int
    bad: list[BadRow]
    applied: bool
    change: int | None
