"""The job of looking at what calls named."""

from __future__ import annotations

import structlog
from django.db import InterfaceError, OperationalError
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError, Temporary
from inkwell_bridge.service import queue
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.incoming import named_documents
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.incoming")


@app.task(name=queue.LOOK_AT_CALLED, queue=queue.READING, retry=RetryWhenAsked(), pass_context=True)
def look_at_called(context, *, workspace_id: int, connection_id: int) -> None:  # type: ignore[no-untyped-def]
    """Look at the documents that an end's calls named, until none waits."""
    rows = Connection.current.select_related("workspace")
    connection = rows.filter(workspace=workspace_id, pk=connection_id).first()
    if connection is None:
        return
    try:
        while named_documents.read(connection):
            pass
    except (EndError, Unreadable) as error:
        connections.note(connection, error)
        asked = error.retry_after_seconds if isinstance(error, Temporary) else None
        # Whatever it is, the calls wait: once the end is mended, its documents are looked at.
        raise TryLater(str(error), after_pause(context.job.attempts, asked)) from error
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
