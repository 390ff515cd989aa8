"""The jobs of looking after connections: checking them, and loading their reference data."""

from __future__ import annotations

from datetime import timedelta

import structlog
from django.db.models import DateTimeField, ExpressionWrapper, F, OuterRef, QuerySet, Subquery, Value
from django.utils import timezone
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError, Temporary
from inkwell_bridge.service import queue
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.reference import loading as loadings
from inkwell_bridge.service.reference.models import ACTIVE_LOADING, Loading, Part
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.jobs")

MOST_LOADING_TRIES = 6
# Of connections that are due at once, a few at a time: the others follow a moment later.
MOST_AT_ONCE = 200


@app.task(name=queue.LOAD, queue=queue.READING, retry=RetryWhenAsked(), pass_context=True)
def load(context, *, workspace_id: int, loading_id: int) -> None:  # type: ignore[no-untyped-def]
    """Load one part of an end's reference data."""
    loading = Loading.objects.select_related("connection__workspace").get(workspace=workspace_id, pk=loading_id)
    if loading.state not in ACTIVE_LOADING:
        return
    try:
        loadings.load(loading)
    except (EndError, Unreadable) as error:
        connections.note(loading.connection, error)
        if not isinstance(error, Temporary) or context.job.attempts >= MOST_LOADING_TRIES:
            loadings.fail(loading, str(error))
            return
        at = after_pause(context.job.attempts, error.retry_after_seconds)
        Loading.objects.filter(pk=loading.pk).update(trouble=f"{error} Trying again by itself.")
        raise TryLater(str(error), at) from error
    except Exception:
        log.exception("loading.failed", workspace=workspace_id, loading=loading_id)
        loadings.fail(loading, "Inkwell Bridge itself failed on this; its log names the failure.")


@app.task(name=queue.CHECK, queue=queue.READING)
def check(*, workspace_id: int, connection_id: int) -> None:
    """Check one connection."""
    connection = Connection.objects.select_related("workspace").get(workspace=workspace_id, pk=connection_id)
    connections.check(connection)


def tend() -> None:
    """Check the connections that are due, and have their names loaded anew; of those that are not paused.

    Writes only where one is due.
    """
    due = _due_for_check().values_list("workspace", "pk")[:MOST_AT_ONCE]
    queue.defer(queue.CHECK, [connections.check_call(workspace, pk) for workspace, pk in due])
    for connection in _due_for_loading()[:MOST_AT_ONCE]:
        loadings.ask(connection, None)


def _due_for_check() -> QuerySet[Connection]:
    return _due("checked_at", "check_every_minutes", timedelta(minutes=1))


def _due_for_loading() -> QuerySet[Connection]:
    """Only what was loaded once is loaded again by itself: the first time is for a person to choose."""
    newest = Loading.objects.filter(connection=OuterRef("pk"), part=Part.LISTS).order_by("-pk")
    loaded = Connection.current.annotate(asked_at=Subquery(newest.values("asked_at")[:1]))
    return _due("asked_at", "reload_every_hours", timedelta(hours=1), loaded).select_related("workspace")


def _due(last: str, every: str, unit: timedelta, rows: QuerySet[Connection] | None = None) -> QuerySet[Connection]:
    rows = (Connection.current.all() if rows is None else rows).filter(paused_at=None)
    due_at = ExpressionWrapper(F(last) + F(every) * Value(unit), output_field=DateTimeField())
    return rows.annotate(due_at=due_at).filter(due_at__lte=timezone.now(), **{f"{every}__gt": 0}).order_by("due_at")
