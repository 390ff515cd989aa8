"""A breaker for each connection: while an end is away it is asked by one probe a minute, not by every document; while
it refuses our key or rights, ever more seldom, and at once when somebody mends that.

What the end said stands on the connection's own row, so that all workers know of it. A document that comes while the
breaker is open waits without a call; the first one after its time is the probe, and what it hears closes the breaker or
opens it again.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import NamedTuple

from django.conf import settings
from django.db.models import F
from django.utils import timezone

from inkwell_bridge.ends.errors import Temporary
from inkwell_bridge.service.connections.models import Connection

# So many documents in a row must fail first: one broken answer is no outage.
OPENS_AFTER = 3


class Pass(NamedTuple):
    """How many documents may go to an end now; the others wait, for why and until when."""

    most: int | None
    why: str = ""
    until: datetime | None = None


def passes(connection: Connection) -> Pass:
    """How many may go now: all of them, or one as the probe, or none. A statement only while the breaker is open."""
    until = connection.away_until
    if until is None or connection.away_count < OPENS_AFTER:
        return Pass(None)
    now = timezone.now()
    if now < until:
        # As it failed last: that it did not answer, or what it refuses. When it is asked again stands beside it.
        return Pass(0, f"{connection.name}: {connection.state_text or 'it did not answer'}", until)
    # The probe: whoever moves the time on is the one that asks.
    ours = Connection.objects.filter(pk=connection.pk, away_until=until).update(away_until=now + _probe_pause())
    return Pass(1 if ours else 0, f"{connection.name} is being asked whether it is back.", now + _probe_pause())


def note(connection: Connection, error: Exception, number: int, at: datetime) -> datetime:
    """Note that an end failed for so many documents: was away, asked for a pause, refused our key or rights.

    Answers when those that met it ask again: ``at``, the end of their own pause, or earlier. All others that come
    meanwhile wait as long as they like, for whoever finds the end well again lets all go.
    """
    until = at
    # An end that is away may be back any minute; one that names a pause means it; and a key does not mend itself.
    if isinstance(error, Temporary):
        asked = timedelta(seconds=error.retry_after_seconds or 0.0)
        until = min(at, timezone.now() + max(_probe_pause(), asked))
    Connection.objects.filter(pk=connection.pk).update(away_until=until, away_count=F("away_count") + number)
    return until


def close(connection: Connection) -> bool:
    """The end answered; says whether that was news. A statement only where the breaker was not closed."""
    if connection.away_until is None:
        return False
    news = Connection.objects.filter(pk=connection.pk, away_until__isnull=False).update(away_until=None, away_count=0)
    return bool(news)


def _probe_pause() -> timedelta:
    return timedelta(seconds=settings.PROBE_SECONDS)
