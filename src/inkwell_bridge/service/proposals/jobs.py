"""The job of a proposal."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import see_through
from inkwell_bridge.service.later import RetryWhenAsked
from inkwell_bridge.service.proposals import working
from inkwell_bridge.service.proposals.models import Proposal


@app.task(name=queue.PROPOSE, queue=queue.READING, retry=RetryWhenAsked())
def propose_rules(*, workspace_id: int, proposal_id: int) -> None:
    """Gather the examples of one proposal, and learn from them."""
    found = Proposal.objects.select_related(
        "workspace", "bridge__workspace", "bridge__company", "bridge__source__workspace", "bridge__books__workspace",
    ).filter(workspace=workspace_id, pk=proposal_id).first()  # fmt: skip
    if found is None:
        # Forgotten since it was asked for.
        return
    see_through(
        found,
        working.work,
        in_words=lambda error: f"{error} See that both ends of the bridge are connected, and ask again.",
    )
