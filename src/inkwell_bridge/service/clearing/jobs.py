"""The job of a proof."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import see_through
from inkwell_bridge.service.clearing import working
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.later import RetryWhenAsked


@app.task(name=queue.PROVE_ACCOUNT, queue=queue.READING, retry=RetryWhenAsked())
def prove_account(*, workspace_id: int, proof_id: int) -> None:
    """Read what the books have on an account, and hold it against what was posted from here."""
    found = ClearingProof.objects.select_related("workspace", "books__workspace").filter(
        workspace=workspace_id, pk=proof_id
    ).first()  # fmt: skip
    if found is None:
        # Forgotten since it was asked for.
        return
    see_through(found, working.work, in_words=lambda error: f"{error} See that the books are connected, and ask again.")
