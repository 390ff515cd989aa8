"""The job of a check."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import see_through
from inkwell_bridge.service.completeness import working
from inkwell_bridge.service.completeness.models import CompletenessCheck
from inkwell_bridge.service.later import RetryWhenAsked


@app.task(name=queue.CHECK_COMPLETENESS, queue=queue.READING, retry=RetryWhenAsked())
def check_completeness(*, workspace_id: int, check_id: int) -> None:
    """Read what the sales side lists of some days, and fetch what was never read."""
    rows = CompletenessCheck.objects.select_related(
        "workspace", "bridge__source__workspace", "bridge__books__workspace", "bridge__company"
    )
    found = rows.filter(workspace=workspace_id, pk=check_id).first()
    if found is None:
        # Forgotten since it was asked for.
        return
    see_through(found, working.work, in_words=lambda error: f"{error} See that the shop is connected, and ask again.")
