"""Who may do what, and who did what."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from inkwell_bridge.client.models.answer import Answer


class Entry(Answer):
    """A workspace and one's role in it."""

    slug: str
    name: str
    role: str


class Session(Answer):
    """Who is signed in; ``provider`` names who else one can sign in through, ``mails`` whether mail can be sent."""

    signed_in: bool
    name: str
    email: str
    now: datetime
    provider: str
    mails: bool
    workspaces: list[Entry]


class Token(Answer):
    """A token as listed, without its text."""

    id: int
    name: str
    workspace: str | None
    role: str
    created_at: datetime
    expires_at: datetime | None
    last_used_at: datetime | None
    ends_soon: bool


class BrowserSession(Answer):
    """A browser that one is signed in with."""

    number: int
    started_at: datetime
    last_used_at: datetime
    ends_at: datetime
    address: str
    browser: str
    current: bool


class SecondFactor(Answer):
    """Whether signing in takes a code, since when, and how many recovery codes are left."""

    on: bool
    since: datetime | None
    recovery_codes: int


class OfferedSecret(Answer):
    """A secret for an authenticator app: as text, as ``otpauth:`` address, and as a picture of that (``data:``)."""

    secret: str
    address: str
    picture: str


class Company(Answer):
    """A company of the client; of its months ``two_close`` says whether another than the proposer closes them."""

    slug: str
    name: str
    country: str
    currency: str
    time_zone: str
    two_close: bool
    report_language: str


class Member(Answer):
    """A person with a role."""

    id: int
    email: str
    name: str
    role: str


class Invitation(Answer):
    """Somebody who was invited and has not come yet."""

    id: int
    email: str
    name: str
    role: str
    invited_by: str
    invited_at: datetime
    ends_at: datetime


class Invited(Invitation):
    """A new invitation; ``link`` is for handing on, and empty where it was mailed."""

    link: str


class InvitedTo(Answer):
    """What an invitation is to; ``has_account``: its address has a password already."""

    workspace: str
    email: str
    name: str
    role: str
    invited_by: str
    ends_at: datetime
    has_account: bool


class TrailEntry(Answer):
    """Who did what, when."""

    id: int
    at: datetime
    person: str
    action: str
    about: str
    details: dict[str, Any]


class Erasure(Answer):
    """How far erasing what tells of a buyer is; ``kept`` are the numbers of what has not crossed yet."""

    id: int
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    looked_at: int
    snapshots: int
    names: int
    kept: list[str]
