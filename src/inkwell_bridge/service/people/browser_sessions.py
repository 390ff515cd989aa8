"""Sessions of browsers, kept so that their owners can see and end them.

This is Django's own store of sessions with three things more: the row knows whose session it is, from where and with
what it began and when it was used last; and the key stands in the database as a digest alone, so that nobody who reads
the database signs in with what they find there.
"""

from __future__ import annotations

import secrets
from datetime import datetime
from typing import Any

from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.utils import timezone
from rest_framework.request import Request

from inkwell_bridge.service.blinding import digest_of_secret
from inkwell_bridge.service.people.brake import address_of
from inkwell_bridge.service.people.last_use import note_use
from inkwell_bridge.service.people.models import BrowserSession

FROM = "_signed_in_from"
LARGEST_NUMBER = 2**52


def note_origin(request: Request) -> None:
    """Keep from where and with what somebody signs in, for them to know it again in the list."""
    browser = request.headers.get("User-Agent", "")
    printable = "".join(sign if sign.isprintable() else " " for sign in browser)
    request.session[FROM] = [address_of(request)[:45], printable[:200]]


class SessionStore(DatabaseStore):
    """What Django's ``SESSION_ENGINE`` names."""

    @classmethod
    def get_model_class(cls) -> type[BrowserSession]:
        """Our rows."""
        return BrowserSession

    def exists(self, session_key: str) -> bool:
        """Whether there is a session of that key."""
        return BrowserSession.objects.filter(session_key=digest(session_key)).exists()

    def _get_session_from_db(self) -> BrowserSession | None:
        rows = BrowserSession.objects.filter(session_key=digest(self.session_key or ""))
        row = rows.filter(expire_date__gt=timezone.now()).first()
        if row is None:
            self._session_key = None
        else:
            note_use(rows, row.last_used_at)
        return row

    def create_model_instance(self, data: dict[str, Any]) -> BrowserSession:
        """The row of this session. Renewing it keeps its number and when it began."""
        now = timezone.now()
        key = digest(self._get_or_create_session_key())
        before = BrowserSession.objects.filter(session_key=key).only("number", "started_at").first()
        address, browser = data.get(FROM, ("", ""))
        return BrowserSession(
            session_key=key, session_data=self.encode(data), expire_date=self.get_expiry_date(),
            person_id=data.get(SESSION_KEY), number=before.number if before else 1 + secrets.randbelow(LARGEST_NUMBER),
            started_at=before.started_at if before else now, last_used_at=now, address=address, browser=browser,
        )  # fmt: skip

    def delete(self, session_key: str | None = None) -> None:
        """End it."""
        key = session_key or self.session_key
        if key is not None:
            BrowserSession.objects.filter(session_key=digest(key)).delete()

    @classmethod
    def clear_expired(cls, at: datetime | None = None) -> None:
        """Take away what has ended."""
        BrowserSession.objects.filter(expire_date__lt=at or timezone.now()).delete()


def digest(key: str) -> str:
    """The key as it stands in the database; Django's column has room for forty signs."""
    return digest_of_secret(key)[:40]
