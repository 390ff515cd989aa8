"""The job of a rehearsal."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import see_through
from inkwell_bridge.service.later import RetryWhenAsked
from inkwell_bridge.service.rehearsals import working
from inkwell_bridge.service.rehearsals.models import Rehearsal


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
    see_through(found, working.work, in_words=lambda error: f"{found.bridge.books.name}: {error}")
