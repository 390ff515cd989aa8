"""What is wrong just now, and what of it is new, has changed or is over.

Everything is found by a few statements over all workspaces, and compared with what stood open; while nothing changes,
nothing is written.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.db import connection as database
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.notices import TroubleKind
from inkwell_bridge.service import clock
from inkwell_bridge.service.carriage.states import CrossingState, RunState
from inkwell_bridge.service.carriage.totals import amounts_by_currency
from inkwell_bridge.service.connections.breaker import OPENS_AFTER
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.incoming.models import CallAddress
from inkwell_bridge.service.notices.models import Notice, Trouble
from inkwell_bridge.service.rows import remove_in_chunks

_COMPARED = ("count", "amounts", "oldest", "text", "tries", "next_try_at", "cause")
# A connection in one of these needs somebody; in the others it works, or nobody has tried it.
_BAD = (ConnectionState.LIMITED, ConnectionState.EXPIRING, ConnectionState.REFUSED, ConnectionState.SIGN_IN,
        ConnectionState.UNREACHABLE, ConnectionState.OTHER_COMPANY)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A trouble as it is found; ``key`` tells it from every other of its workspace."""

    workspace_id: int
    key: str
    kind: TroubleKind
    bridge_id: int | None = None
    connection_id: int | None = None
    lane: str = ""
    cause: str = ""
    count: int = 0
    amounts: dict[str, str] = field(default_factory=dict)
    oldest: str = ""
    text: str = ""
    tries: int = 0
    next_try_at: datetime | None = None


def update() -> tuple[int, int, int]:
    """Compare what is wrong with what stood open; answers how many are new, changed and over."""
    looks = (_held, _failed_runs, _ends, _silent, _statements, _accounts, _untied, _closed_months)
    found = {(one.workspace_id, one.key): one for look in looks for one in look()}
    now = clock.now()
    with transaction.atomic():
        standing = {(one.workspace_id, one.key): one for one in Trouble.objects.filter(ended_at=None)}
        new = [_opened(one, now) for key, one in found.items() if key not in standing]
        changed = [one for key, one in standing.items() if key in found and _changed(one, found[key], now)]
        over = [one for key, one in standing.items() if key not in found]
        Trouble.objects.bulk_create(new)
        Trouble.objects.bulk_update(changed, [*_COMPARED, "changed_at"])
        if over:
            Trouble.objects.filter(pk__in=[one.pk for one in over]).update(ended_at=now, changed_at=now)
    return len(new), len(changed), len(over)


def _opened(found: Found, now: datetime) -> Trouble:
    fields = {name: getattr(found, name) for name in Found.__slots__}
    return Trouble(**{**fields, "kind": found.kind.value}, opened_at=now, changed_at=now)


def _changed(standing: Trouble, found: Found, now: datetime) -> bool:
    """Take over what is found; whether anything of it is another."""
    before = [getattr(standing, name) for name in _COMPARED]
    for name in _COMPARED:
        setattr(standing, name, getattr(found, name))
    if [getattr(standing, name) for name in _COMPARED] == before:
        return False
    # What only is tried once more is nothing that somebody has not seen.
    if [getattr(standing, name) for name in ("count", "cause")] != [before[0], before[-1]]:
        standing.changed_at = now
    return True


def _held() -> Iterable[Found]:
    """What is held or differs, by bridge, lane and cause, with the money behind it and its oldest document."""
    states = {CrossingState.HELD.value: TroubleKind.HELD, CrossingState.DIFFERS.value: TroubleKind.DIFFERS}
    for workspace, bridge, lane, state, cause, count, amounts, oldest in _rows(_HELD, {"states": list(states)}):
        kind = states[state]
        yield Found(
            workspace_id=workspace, key=f"{kind}:{bridge}:{lane}:{cause}", kind=kind, bridge_id=bridge, lane=lane,
            cause=cause, count=count, amounts=_amounts(amounts), oldest=oldest or "",
        )  # fmt: skip


_HELD = """
    WITH held AS (
        SELECT crossing.workspace_id, crossing.bridge_id, crossing.kind, crossing.state, crossing.cause,
               crossing.currency, count(*) AS number, sum(crossing.gross) AS gross,
               min(ARRAY[coalesce(to_char(crossing.moment, 'YYYYMMDDHH24MISS'), ''), crossing.number]) AS oldest
        FROM carriage_crossing AS crossing JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
        WHERE crossing.state = ANY(%(states)s) AND bridge.removed_at IS NULL
        GROUP BY 1, 2, 3, 4, 5, 6)
    SELECT workspace_id, bridge_id, kind, state, cause, sum(number)::int,
           json_object_agg(currency, gross::text) FILTER (WHERE currency <> '')::text, (min(oldest))[2]
    FROM held GROUP BY 1, 2, 3, 4, 5
"""


def _failed_runs() -> Iterable[Found]:
    """Bridges whose newest run failed."""
    for workspace, bridge, run, text in _rows(_FAILED, {"failed": RunState.FAILED.value}):
        yield Found(
            workspace_id=workspace, key=f"run:{bridge}", kind=TroubleKind.RUN_FAILED, bridge_id=bridge,
            text=f"Run {run}: {text}"[:2000],
        )  # fmt: skip


_FAILED = """
    SELECT newest.workspace_id, newest.bridge_id, newest.id, newest.trouble
    FROM bridges_bridge AS bridge
    CROSS JOIN LATERAL (SELECT run.* FROM carriage_run AS run WHERE run.bridge_id = bridge.id
                        ORDER BY run.id DESC LIMIT 1) AS newest
    WHERE bridge.removed_at IS NULL AND newest.state = %(failed)s
"""


def _ends() -> Iterable[Found]:
    """Ends that do not answer as they should: one incident each, with the documents that wait behind it."""
    rows = Connection.current.filter(paused_at=None)
    away = {one.pk: one for one in rows.filter(away_until__isnull=False, away_count__gte=OPENS_AFTER)}
    bad = {one.pk: one for one in rows.filter(state__in=_BAD)}
    if not (bad or away):
        return
    ends = [*bad, *(pk for pk in away if pk not in bad)]
    waiting = {row[0]: row for row in _rows(_WAITING, {"waiting": CrossingState.WAITING.value, "ends": ends})}
    for pk in ends:
        end = bad.get(pk) or away[pk]
        state = ConnectionState(end.state).label if pk in bad else "Does not answer"
        _, count, amounts, oldest = waiting.get(pk, (pk, 0, None, ""))
        yield Found(
            workspace_id=end.workspace_id, key=f"end:{pk}", kind=TroubleKind.END, connection_id=pk, cause=state,
            text=end.state_text if pk in bad else "", count=count, amounts=_amounts(amounts), oldest=oldest or "",
            tries=end.away_count, next_try_at=end.away_until,
        )  # fmt: skip


_WAITING = """
    WITH waiting AS (
        SELECT end_id, crossing.currency, count(*) AS number, sum(crossing.gross) AS gross,
               min(crossing.number) AS oldest
        FROM unnest(%(ends)s::bigint[]) AS end_id
        JOIN bridges_bridge AS bridge ON end_id IN (bridge.books_id, bridge.source_id)
        JOIN carriage_crossing AS crossing ON crossing.bridge_id = bridge.id
        WHERE crossing.state = %(waiting)s AND crossing.next_try_at IS NOT NULL
        GROUP BY 1, 2)
    SELECT end_id, sum(number)::int, json_object_agg(currency, gross::text) FILTER (WHERE currency <> '')::text,
           min(oldest)
    FROM waiting GROUP BY 1
"""


def _silent() -> Iterable[Found]:
    """Ends that promise calls and have not been heard in time."""
    now = timezone.now()
    rows = CallAddress.objects.select_related("connection").filter(
        expected_within_minutes__gt=0, connection__removed_at=None, connection__paused_at=None
    )
    for row in rows:
        by = row.should_be_heard_by
        if by is not None and by < now:
            yield Found(
                workspace_id=row.workspace_id, key=f"silent:{row.connection_id}", kind=TroubleKind.SILENT,
                connection_id=row.connection_id, text=f"It should have been heard by {by:%Y-%m-%d %H:%M} UTC.",
            )  # fmt: skip


def _statements() -> Iterable[Found]:
    """Bank accounts whose newest file was refused: nobody may have looked, for it was dropped into a folder."""
    for workspace, account, name, books, file, problem in _rows(_REFUSED, {}):
        yield Found(
            workspace_id=workspace, key=f"statement:{account}", kind=TroubleKind.STATEMENT, connection_id=books,
            cause=name[:60], text=f"{file}: {problem}"[:2000],
        )  # fmt: skip


_REFUSED = """
    SELECT account.workspace_id, account.slug, account.name, account.books_id, newest.name, newest.problem
    FROM bank_bankaccount AS account
    CROSS JOIN LATERAL (SELECT file.name, file.problem FROM bank_statementfile AS file
                        WHERE file.account_id = account.id ORDER BY file.id DESC LIMIT 1) AS newest
    WHERE newest.problem <> ''
"""


def _accounts() -> Iterable[Found]:
    """Accounts of money whose newest proof found a difference."""
    for workspace, books, account, first, last, differences in _rows(_DIFFERING, {}):
        items = sum(one["count"] for one in json.loads(differences))
        said = f"{items:,} item{'' if items == 1 else 's'} differ{'s' if items == 1 else ''}" if items else "It differs"
        yield Found(
            workspace_id=workspace, key=f"account:{books}:{account}", kind=TroubleKind.ACCOUNT, connection_id=books,
            cause=account[:60], text=f"{said}, {first} to {last}.",
        )  # fmt: skip


_DIFFERING = """
    -- What came of a proof may be large: it is opened only of those that need somebody.
    WITH newest AS (
        SELECT DISTINCT ON (proof.books_id, proof.account) proof.id, proof.proves
        FROM clearing_clearingproof AS proof JOIN connections_connection AS books ON books.id = proof.books_id
        WHERE proof.state = 'ended' AND books.removed_at IS NULL
        ORDER BY proof.books_id, proof.account, proof.id DESC)
    SELECT proof.workspace_id, proof.books_id, proof.account, proof.first, proof.last,
           (proof.result -> 'differences')::text
    FROM newest JOIN clearing_clearingproof AS proof ON proof.id = newest.id
    WHERE NOT newest.proves
"""


def _untied() -> Iterable[Found]:
    """Days that had tied and do so no longer, month by month."""
    for workspace, bridge, month, days in _rows(_UNTIED, {}):
        named = ", ".join(f"{day.day} {day:%B}" for day in days[:_DAYS_NAMED])
        more = f" and {len(days) - _DAYS_NAMED} more" if len(days) > _DAYS_NAMED else ""
        yield Found(
            workspace_id=workspace, key=f"untied:{bridge}:{month}", kind=TroubleKind.UNTIED, bridge_id=bridge,
            count=len(days), text=f"{named}{more}.",
        )  # fmt: skip


_DAYS_NAMED = 5
_UNTIED = """
    SELECT tied.workspace_id, tied.bridge_id, to_char(tied.date, 'YYYY-MM'), array_agg(tied.date ORDER BY tied.date)
    FROM tieout_tiedday AS tied JOIN bridges_bridge AS bridge ON bridge.id = tied.bridge_id
    WHERE tied.untied_at IS NOT NULL AND bridge.removed_at IS NULL
    GROUP BY 1, 2, 3
"""


def _closed_months() -> Iterable[Found]:
    """Closed months in which something changed since, by the bridge that it came over."""
    for workspace, bridge, month, documents, oldest in _rows(_CLOSED_MONTHS, {}):
        yield Found(
            workspace_id=workspace, key=f"closed:{bridge}:{month}", kind=TroubleKind.CLOSED_MONTH, bridge_id=bridge,
            cause=month, count=documents, oldest=oldest,
            text="Its closing stands as it was; what changed is beside it.",
        )  # fmt: skip


_CLOSED_MONTHS = """
    WITH left_over AS (
        -- What was changed back is as it was.
        SELECT closing_id, crossing_id
        FROM closing_laterchange
        GROUP BY closing_id, crossing_id, side, grain, section, date, currency, tax_code, tender
        HAVING sum(count) <> 0 OR sum(net) <> 0 OR sum(tax) <> 0 OR sum(gross) <> 0)
    SELECT closing.workspace_id, crossing.bridge_id, to_char(closing.month, 'YYYY-MM'),
           count(DISTINCT crossing.id)::int, min(crossing.number)
    FROM left_over
    JOIN closing_monthclosing AS closing ON closing.id = left_over.closing_id
    JOIN carriage_crossing AS crossing ON crossing.id = left_over.crossing_id
    JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    LEFT JOIN closing_reopening AS reopening ON reopening.closing_id = closing.id
    WHERE reopening.id IS NULL AND bridge.removed_at IS NULL
    GROUP BY 1, 2, 3
"""


def _rows(statement: str, given: dict[str, Any]) -> list[tuple[Any, ...]]:
    with database.cursor() as cursor:
        cursor.execute(statement, given)
        return list(cursor.fetchall())


def _amounts(text: str | None) -> dict[str, str]:
    return {currency: str(amount) for currency, amount in amounts_by_currency(text).items()}


def remove_old() -> int:
    """Forget troubles that were over long ago, with what was told of them, and messages of long ago."""
    before = clock.now() - timedelta(days=settings.KEEP_DAYS)
    gone = remove_in_chunks(Trouble.objects.filter(ended_at__lt=before))
    return gone + remove_in_chunks(Notice.objects.filter(made_at__lt=before))
