"""How often payment links may be opened: from one address, and each link by whomever.

Counted in PostgreSQL, so that it holds for all processes; addresses stand there as digests, for an hour.
"""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db import connection
from django.utils import timezone

from inkwell_bridge.service.blinding import blind
from inkwell_bridge.service.requests.models import Openings
from inkwell_bridge.service.rows import remove_in_chunks

KEPT_FOR = timedelta(hours=1)
# A link that leads nowhere was mistyped, or is a guess: so many of these are no more than a third of what is allowed.
ONE_IN = 3


def may_open(address: str, token: str) -> bool:
    """Whether a page may be shown to this address, and this link be looked at once more; counted as one opening of
    both. One statement."""
    most = int(settings.OPENINGS_PER_MINUTE)
    # A link that is passed round is opened by many: together they may do so more often than one of them.
    return all(count <= most * times for count, times in zip(_counted(f"from {address}", f"of {token}"), (1, 5),
                                                             strict=True))  # fmt: skip


def may_guess(address: str) -> bool:
    """Whether this address may be told once more that a link leads nowhere."""
    (count,) = _counted(f"wrong from {address}")
    return count <= _most_wrong()


def has_guessed(address: str) -> bool:
    """Whether this address tried too many links that lead nowhere just now; nothing is counted."""
    digest = blind(f"wrong from {address}", purpose="openings")
    now = timezone.now().replace(second=0, microsecond=0)
    return Openings.objects.filter(digest=digest, minute=now, count__gte=_most_wrong()).exists()


def _most_wrong() -> int:
    return max(1, int(settings.OPENINGS_PER_MINUTE) // ONE_IN)


def _counted(*names: str) -> list[int]:
    """Each counted once more in this minute; how often each was by now, in their order."""
    minute = timezone.now().replace(second=0, microsecond=0)
    digests = [blind(name, purpose="openings") for name in names]
    with connection.cursor() as cursor:
        cursor.execute(_COUNT, {"digests": digests, "minute": minute})
        found = dict(cursor.fetchall())
    return [found[digest] for digest in digests]


def forget() -> int:
    """Take away what is too old to count; for upkeep, so that no buyer waits for it."""
    return remove_in_chunks(Openings.objects.filter(minute__lt=timezone.now() - KEPT_FOR))


_COUNT = """
    INSERT INTO requests_openings (digest, minute, count)
    SELECT digest, %(minute)s, 1 FROM unnest(%(digests)s::text[]) AS digest ORDER BY digest
    ON CONFLICT (digest, minute) DO UPDATE SET count = requests_openings.count + 1
    RETURNING digest, count
"""
