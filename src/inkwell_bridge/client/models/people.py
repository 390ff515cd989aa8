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
    """Who is signed in."""

    signed_in: bool
    name: str
    email: str
    now: datetime
    workspaces: list[Entry]


class Token(Answer):
    """A token as listed, without its text."""

    id: int
    name: str
    workspace: str | None
    role: str
    created_at: datetime
    expires_at: datetime | None


class Company(Answer):
    """A company of the client."""

    slug: str
    name: str
    country: str
    currency: str
    time_zone: str


class Member(Answer):
    """A person with a role."""

    id: int
    email: str
    name: str
    role: str


class TrailEntry(Answer):
    """Who did what, when."""

    id: int
    at: datetime
    person: str
    action: str
    about: str
    details: dict[str, Any]
