"""The door for signed calls from outside: stored before they are answered, and never believed for their content.

Answers: 204 stored (or known already), 400 no event, 401 not signed by this end or too old, 404 no such address,
405 another method, 413 too large, 503 no secret can be opened.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import NamedTuple

import structlog
from django.db import connection as database
from django.db.models import F
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from inkwell_bridge.core.text import REPLACEMENT
from inkwell_bridge.ends.errors import NotOffered, Refused
from inkwell_bridge.ends.shapes import Event, SignedCall
from inkwell_bridge.ends.signed_calls import LARGEST_CALL_BYTES
from inkwell_bridge.service import queue
from inkwell_bridge.service.connections.ends import opened_caller
from inkwell_bridge.service.incoming.addresses import opened
from inkwell_bridge.service.incoming.models import IN_BOOKS, CallAddress, IncomingState
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.incoming")

LONGEST_NUMBER = 200
# What is refused is counted, but not for each of a flood.
COUNT_REFUSED_EVERY_SECONDS = 1.0
_refused_at: dict[int, float] = {}


class Door(NamedTuple):
    """Where a call came in: the address, the connection that it is of, and the secrets that are good now, the newest
    first."""

    address: int
    workspace: int
    workspace_slug: str
    connection: int
    connection_slug: str
    version: int
    secrets: Sequence[bytes]


@csrf_exempt
@require_POST
def receive(request: HttpRequest, key: str) -> HttpResponse:
    """Take one call: two statements, three where nobody looks at the end's calls yet, and no call to anybody."""
    door = _door(key)
    if door is None:
        return _answer(404, "There is nobody to call at this address.")
    if int(request.headers.get("Content-Length") or 0) > LARGEST_CALL_BYTES:
        return _refuse(door, 413, f"The call is larger than {LARGEST_CALL_BYTES} bytes.")
    body = request.read(LARGEST_CALL_BYTES + 1)
    if len(body) > LARGEST_CALL_BYTES:
        return _refuse(door, 413, f"The call is larger than {LARGEST_CALL_BYTES} bytes.")
    try:
        secrets = [opened(one, workspace=door.workspace_slug, connection=door.connection_slug) for one in door.secrets]
        end = opened_caller(door.connection, door.version)
        event = end.parse_webhook(SignedCall(headers=dict(request.headers), body=body), secrets)
    except Unreadable:
        # Ours to mend: the sender is to try again.
        log.exception("incoming.unreadable", connection=door.connection)
        return _answer(503, "The call cannot be checked at the moment.")
    except NotOffered as error:
        return _refuse(door, 400, str(error))
    except Refused as error:
        return _refuse(door, 401 if error.why == "credentials" else 400, str(error))
    if not _fits(event):
        return _refuse(door, 400, "The call names no document that there can be.")
    _store(door, event)
    return HttpResponse(status=204)


def _door(key: str) -> Door | None:
    # Written out: made by the ORM, finding this alone took as long as all else about a call.
    with database.cursor() as cursor:
        cursor.execute(_DOOR, [key])
        found = cursor.fetchone()
    return Door(*found) if found else None


_DOOR = """
    SELECT address.id, workspace.id, workspace.slug, connection.id, connection.slug, connection.version,
           ARRAY(SELECT secret.sealed FROM incoming_callsecret AS secret
                 WHERE secret.connection_id = connection.id AND (secret.ends_at IS NULL OR secret.ends_at > now())
                 ORDER BY secret.id DESC)
    FROM incoming_calladdress AS address
    JOIN connections_connection AS connection ON connection.id = address.connection_id
    JOIN people_workspace AS workspace ON workspace.id = address.workspace_id
    WHERE address.key = %s AND connection.removed_at IS NULL
"""


def _fits(event: Event) -> bool:
    # What no text may hold was replaced on reading: under such a number nothing can be asked for.
    texts = (event.id, event.number)
    return all(0 < len(text) <= LONGEST_NUMBER and REPLACEMENT not in text for text in texts)


def _store(door: Door, event: Event) -> None:
    """Keep what it said, once, and have it looked at; one that came before changes nothing.

    Kept is kept once the first statement is through: should we die before the job is queued, the sweep queues it.
    """
    now, lock = timezone.now(), f"called:{door.connection}"
    kind = event.kind.value if event.kind else IN_BOOKS
    with database.cursor() as cursor:
        cursor.execute(
            _STORE,
            {"workspace": door.workspace, "connection": door.connection, "call_id": event.id,
             "kind": kind, "number": event.number, "happened_at": event.at, "now": now,
             "waiting": IncomingState.WAITING.value, "task": queue.LOOK_AT_CALLED, "lock": lock},
        )  # fmt: skip
        is_new, is_queued = cursor.fetchone()
    if is_new and not is_queued:
        arguments = {"workspace_id": door.workspace, "connection_id": door.connection}
        queue.defer(queue.LOOK_AT_CALLED, [queue.Call(arguments=arguments, lock=lock, priority=queue.ASKED_FOR)])


# One that is under way may have looked already; only one that has not begun sees this call as well.
_STORE = """
    WITH heard AS (
        UPDATE incoming_calladdress SET last_call_at = %(now)s
        WHERE connection_id = %(connection)s
          AND (last_call_at IS NULL OR last_call_at < %(now)s::timestamptz - interval '1 second')),
    stored AS (
        INSERT INTO incoming_incomingcall
            (workspace_id, connection_id, call_id, kind, number, happened_at, received_at, state)
        VALUES (%(workspace)s, %(connection)s, %(call_id)s, %(kind)s, %(number)s, %(happened_at)s, %(now)s, %(waiting)s)
        ON CONFLICT (connection_id, call_id) DO NOTHING RETURNING id)
    SELECT EXISTS (SELECT FROM stored),
           EXISTS (SELECT FROM procrastinate_jobs WHERE status = 'todo' AND task_name = %(task)s
                   AND lock = %(lock)s AND (scheduled_at IS NULL OR scheduled_at <= now()))
"""


def _refuse(door: Door, status: int, why: str) -> HttpResponse:
    """Answer that it is refused, and count it; nothing of it is kept."""
    now = time.monotonic()
    if now - _refused_at.get(door.address, -COUNT_REFUSED_EVERY_SECONDS) >= COUNT_REFUSED_EVERY_SECONDS:
        _refused_at[door.address] = now
        CallAddress.objects.filter(pk=door.address).update(
            refused=F("refused") + 1, last_refused_at=timezone.now(), last_refused_why=why[:300]
        )
    return _answer(status, why)


def _answer(status: int, detail: str) -> HttpResponse:
    body = {"type": "about:blank", "status": status, "detail": detail}
    return JsonResponse(body, status=status, content_type="application/problem+json")
