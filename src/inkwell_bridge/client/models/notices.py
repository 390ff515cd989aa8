"""Troubles, and who is told of them."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer


class Trouble(Answer):
    """Something that needs somebody, or did; ``page`` is the page of the console on which it is mended."""

    id: int
    kind: str
    bridge: str
    connection: str
    lane: str
    cause: str
    count: int
    amounts: dict[str, Decimal]
    oldest: str
    text: str
    tries: int
    next_try_at: datetime | None
    opened_at: datetime
    changed_at: datetime
    ended_at: datetime | None
    headline: str
    page: str
    unread: bool


class Troubles(Answer):
    """What needs somebody now, and how much of it is new to whoever asks."""

    unread: int
    troubles: list[Trouble]


class NoticeRule(Answer):
    """Who is told of what, how and when."""

    id: int
    channel: str
    person: str
    address: str
    kinds: list[str]
    bridges: list[str]
    lanes: list[str]
    at_once: bool
    digest_at: str | None
    summary_at: str | None
    quiet_from: str | None
    quiet_until: str | None
    time_zone: str
    on: bool
    last_sent_at: datetime | None
    last_failure: str


class MadeNoticeRule(NoticeRule):
    """The same with the secret that its calls are signed with, shown this once."""

    secret: str


class NoticeSecret(Answer):
    """The secret that a rule's calls are signed with, shown once."""

    secret: str


class TestedNotice(Answer):
    """What happened to a test message."""

    __test__ = False

    sent: bool
    text: str


class Notice(Answer):
    """A message, and what became of it."""

    id: int
    rule: int
    channel: str
    recipient: str
    subject: str
    text: str
    state: str
    made_at: datetime
    sent_at: datetime | None
    tries: int
    failure: str
