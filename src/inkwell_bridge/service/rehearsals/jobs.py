"""The job of a rehearsal."""

from __future__ import annotations

import structlog
from django.db import InterfaceError, OperationalError
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service import queue
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.rehearsals import working
from inkwell_bridge.service.rehearsals.models import Rehearsal
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.jobs")


@app.task(name=queue.REHEARSE, queue=queue.READING, retry=RetryWhenAsked())
def rehearse(*, workspace_id: int, rehearsal_id: int) -> None:
    """Go over the documents of one rehearsal."""
    found = Rehearsal.objects.select_related(
        "workspace", "bridge__workspace", "bridge__company", "bridge__source__workspace", "bridge__books__workspace",
        "rulebook", "since",
    ).filter(workspace=workspace_id, pk=rehearsal_id).first()  # fmt: skip
    if found is None:
        # Forgotten since it was asked for.
        return
    try:
        working.work(found)
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
    except (EndError, Unreadable) as error:
        found.fail(f"{found.bridge.books.name}: {error}")
    except Exception:
        log.exception("rehearsal.failed", workspace=workspace_id, rehearsal=rehearsal_id)
        found.fail("Inkwell Bridge itself failed on this; its log names the failure.")
