"""Ends, and their reference data."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from inkwell_bridge.client.models.answer import Answer


class Kind(Answer):
    """A dialect that connections can speak."""

    name: str
    title: str
    side: str
    credentials_schema: dict[str, Any]
    capabilities: dict[str, Any]
    has_consent_page: bool


class Permission(Answer):
    """A right that the work needs."""

    name: str
    granted: bool
    remedy: str


class Described(Answer):
    """What an end said of itself."""

    company: str
    currency: str
    time_zone: str
    languages: list[str]
    permissions: list[Permission]


class SignedIn(Answer):
    """Who signed in at an end through its consent page, and when."""

    at: datetime | None
    by: str


class SignInBegun(Answer):
    """A sign-in under way: the page that a browser goes to, and until when it may come back."""

    page: str
    state: str
    ends_at: datetime


class Connection(Answer):
    """One end."""

    slug: str
    name: str
    kind: str
    side: str
    company: str | None
    address: str
    state: str
    state_text: str
    checked_at: datetime | None
    checking: bool
    last_contact_at: datetime | None
    described: Described | None
    settled_company: str
    key_expires_at: datetime | None
    credentials_entered: list[str]
    signed_in: SignedIn | None
    check_every_minutes: int
    reload_every_hours: int
    paused_at: datetime | None
    mended: list[str]


class MasterData(Answer):
    """An end's reference data, but for its long lists."""

    loaded_at: datetime
    checksum: str
    content: dict[str, Any]


class Loading(Answer):
    """One going-over of one part of an end's names."""

    id: int
    part: str
    state: str
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    first: bool
    read: int
    expected: int | None
    added: int
    changed: int
    gone: int
    unreadable: int
    trouble: str

    @property
    def under_way(self) -> bool:
        """Whether it still moves."""
        return self.state in {"waiting", "loading"}


class NameKind(Answer):
    """A list of an end, and what the last loading changed in it."""

    kind: str
    count: int
    added: int
    changed: int
    gone: int


class Name(Answer):
    """One thing that an end has a name for."""

    id: int
    source_id: str
    kind: str
    code: str
    name: str
    details: dict[str, Any]
    active: bool
    gone: bool


class CallSecret(Answer):
    """A secret that an end's calls may be signed with; never its text."""

    id: int
    made_at: datetime
    made_by: str
    ends_at: datetime | None


class CallSecretText(Answer):
    """The text of a secret, shown once."""

    secret: str


class CallAddress(Answer):
    """Where an end calls us, and when it last did; ``silent``: it should have been heard by now."""

    address: str
    can_register: bool
    secrets: list[CallSecret]
    expected_within_minutes: int
    last_call_at: datetime | None
    should_be_heard_by: datetime | None
    silent: bool
    refused: int
    last_refused_at: datetime | None
    last_refused_why: str


class CallRegistration(Answer):
    """Whom an end says it calls; empty: nobody."""

    registered_to: str
    is_ours: bool


class IncomingCall(Answer):
    """A call that came: what it said of which document, and what became of it."""

    id: int
    connection: str
    call_id: str
    kind: str
    number: str
    happened_at: datetime
    received_at: datetime
    looked_at: datetime | None
    state: str
