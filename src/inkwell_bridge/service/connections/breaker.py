"""A breaker for each connection: while an end is away it is asked by one probe a minute, not by every document.

What the end said stands on the connection's own row, so that all workers know of it. A document that comes while the
breaker is open waits without a call; the first one after its time is the probe, and what it hears closes the breaker or
opens it again.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from django.conf import settings
from django.db.models import F
from django.utils import timezone

from inkwell_bridge.ends.errors import Away, Busy
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import TryLater

# So many documents in a row must fail first: one broken answer is no outage.
OPENS_AFTER = 3


def pass_or_wait(connection: Connection, otherwise: datetime) -> None:
    """Let a document through, or send it away: it goes on when the end is back, and at the latest at ``otherwise``.

    One statement, and only while the breaker is open.

    Raises:
        TryLater: the end was away a moment ago, and somebody else asks whether it is back.
    """
    until = connection.away_until
    if until is None or connection.away_count < OPENS_AFTER:
        return
    now = timezone.now()
    if now < until:
        text = f"{connection.name} did not answer; it is asked again at {until:%H:%M:%S} UTC."
        raise TryLater(text, max(until, otherwise))
    # The probe: whoever moves the time on is the one that asks.
    ours = Connection.objects.filter(pk=connection.pk, away_until=until).update(away_until=now + _probe_pause())
    if not ours:
        raise TryLater(f"{connection.name} is being asked whether it is back.", max(now + _probe_pause(), otherwise))


def open_until(connection: Connection, error: Exception, at: datetime) -> datetime:
    """Note that an end was away or asked for a pause; answers when the document goes on."""
    if not isinstance(error, Away | Busy):
        return at
    until = min(at, timezone.now() + _probe_pause()) if isinstance(error, Away) else at
    Connection.objects.filter(pk=connection.pk).update(away_until=until, away_count=F("away_count") + 1)
    return at


def close(connection: Connection) -> bool:
    """The end answered; says whether that was news. A statement only where the breaker was not closed."""
    if connection.away_until is None:
        return False
    news = Connection.objects.filter(pk=connection.pk, away_until__isnull=False).update(away_until=None, away_count=0)
    return bool(news)


def _probe_pause() -> timedelta:
    return timedelta(seconds=settings.PROBE_SECONDS)
