"""The job that links what is certain."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.links import matching


@app.task(name=queue.MATCH, queue=queue.READING)
def match_links(*, workspace_id: int, connection_id: int) -> None:
    """Link whatever is certain to or from a connection."""
    matching.match_all(workspace_id, connection_id)
