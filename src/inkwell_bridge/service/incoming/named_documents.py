"""Reading the documents that calls from outside named."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import connection as database
from django.utils import timezone

from inkwell_bridge.ends.at_once import at_once
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service import queue
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force
from inkwell_bridge.service.carriage import reading_again
from inkwell_bridge.service.carriage.kinds import UnknownKind, kind_named
from inkwell_bridge.service.carriage.kinds.protocol import Kind, origin_of
from inkwell_bridge.service.carriage.staging import keep_page
from inkwell_bridge.service.connections.actions import answered
from inkwell_bridge.service.connections.ends import sales_end
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.incoming.models import IN_BOOKS, IncomingCall, IncomingState
from inkwell_bridge.service.reference.pinned import load_master_data, newest_master_data
from inkwell_bridge.service.rows import remove_in_chunks
from inkwell_bridge.service.sessions import give_session_back

# So many documents are asked for before the next are looked at.
LOT = 50


def read(connection: Connection) -> bool:
    """Look at the documents that the oldest calls named: each once, however often it was named. Says whether there may
    be more.

    Calls the end once a document, several at a time, and holds no transaction meanwhile. Repeated, it looks again at
    what was not done; that changes nothing.

    Raises:
        EndError: the end could not be asked; the calls wait.
    """
    if not connection.may_be_asked:
        return False
    rows = IncomingCall.objects.filter(connection=connection, state=IncomingState.WAITING).order_by("id")
    calls = list(rows.only("pk", "kind", "number")[:LOT])
    of_kind: dict[str, dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    for call in calls:
        of_kind[call.kind][call.number].append(call.pk)
    for name, by_number in of_kind.items():
        if name == IN_BOOKS:
            _read_again(connection, by_number)
        else:
            _read_kind(connection, name, by_number)
    if calls:
        answered(connection)
    return len(calls) == LOT


def _read_kind(connection: Connection, name: str, by_number: dict[str, list[int]]) -> None:
    carried = _carried_by(connection, name)
    if not carried:
        _note([pk for keys in by_number.values() for pk in keys], IncomingState.NOT_CARRIED)
        return
    kind = carried[0][1]
    found = _fetched(connection, kind, list(by_number))
    for bridge, of_bridge in carried:
        if newest_master_data(bridge.books) is None:
            # A run loads these anew each time; where none ever ran they are loaded now.
            load_master_data(bridge.books)
        keep_page(bridge, of_bridge, [one for one in found.values() if one is not None])
    # Once everything is kept: should this process die before, the next one looks again.
    _note([pk for number, keys in by_number.items() if found[number] for pk in keys], IncomingState.DONE)
    _note([pk for number, keys in by_number.items() if not found[number] for pk in keys], IncomingState.NOT_FOUND)


def _read_again(connection: Connection, by_number: dict[str, list[int]]) -> None:
    """What we posted there under these numbers is read again, as soon as its turn comes."""
    known = reading_again.ask_for_numbers(connection, list(by_number))
    _note([pk for number, keys in by_number.items() if number in known for pk in keys], IncomingState.DONE)
    _note([pk for number, keys in by_number.items() if number not in known for pk in keys], IncomingState.NOT_CARRIED)


def _carried_by(connection: Connection, name: str) -> list[tuple[Bridge, Kind]]:
    """The bridges that carry documents of that kind from there by themselves, just now."""
    rows = Bridge.current.select_related("workspace", "source__workspace", "books__workspace", "company").filter(
        workspace=connection.workspace_id, source=connection, paused_at=None, books__paused_at=None
    )
    found = []
    for bridge in rows.prefetch_related("lanes").order_by("pk"):
        for lane in bridge.lanes.all():
            try:
                kind = kind_named(lane.kind)
            except UnknownKind:
                continue
            is_meant = lane.on and kind.source_kind.value == name and origin_of(kind, bridge) == connection
            if is_meant and bridge.books.state != ConnectionState.OTHER_COMPANY and in_force(bridge):
                found.append((bridge, kind))
    return found


def _fetched(connection: Connection, kind: Kind, numbers: Sequence[str]) -> dict[str, Fetched | None]:
    end: Any = sales_end(connection)

    def fetch(number: str) -> Fetched | None:
        try:
            return end.document(kind.source_kind, number)  # type: ignore[no-any-return]
        except Refused as error:
            if error.why == "not found":
                return None
            raise

    give_session_back()
    return dict(zip(numbers, at_once(fetch, numbers), strict=True))


def _note(keys: Sequence[int], state: IncomingState) -> None:
    IncomingCall.objects.filter(pk__in=keys).update(state=state, looked_at=timezone.now())


def wake() -> int:
    """Queue what waits to be looked at and has no job: what was paused, or lost its job. Answers for how many ends."""
    with database.cursor() as cursor:
        cursor.execute(_WITHOUT_JOB, {"waiting": IncomingState.WAITING.value, "task": queue.LOOK_AT_CALLED})
        found = cursor.fetchall()
    queue.defer(
        queue.LOOK_AT_CALLED,
        [queue.Call(arguments={"workspace_id": workspace, "connection_id": pk}, lock=f"called:{pk}")
         for workspace, pk in found],
    )  # fmt: skip
    return len(found)


_WITHOUT_JOB = """
    SELECT connection.workspace_id, connection.id FROM connections_connection AS connection
    WHERE connection.paused_at IS NULL AND connection.removed_at IS NULL
      AND EXISTS (SELECT FROM incoming_incomingcall AS call
                  WHERE call.connection_id = connection.id AND call.state = %(waiting)s)
      AND NOT EXISTS (SELECT FROM procrastinate_jobs AS job
                      WHERE job.status IN ('todo', 'doing') AND job.task_name = %(task)s
                        AND job.lock = 'called:' || connection.id)
"""


def remove_old() -> int:
    """Forget calls that came long ago."""
    before = timezone.now() - timedelta(days=settings.KEEP_DAYS)
    return remove_in_chunks(IncomingCall.objects.filter(received_at__lt=before))
