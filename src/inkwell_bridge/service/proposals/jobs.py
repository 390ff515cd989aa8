"""The job of a proposal."""

from __future__ import annotations

import structlog
from django.db import InterfaceError, OperationalError
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service import queue
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.proposals import working
from inkwell_bridge.service.proposals.models import Proposal
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.jobs")


@app.task(name=queue.PROPOSE, queue=queue.READING, retry=RetryWhenAsked())
def propose_rules(*, workspace_id: int, proposal_id: int) -> None:
    """Gather the examples of one proposal, and learn from them."""
    found = Proposal.objects.select_related(
        "workspace", "bridge__workspace", "bridge__company", "bridge__source__workspace", "bridge__books__workspace",
    ).filter(workspace=workspace_id, pk=proposal_id).first()  # fmt: skip
    if found is None:
        # Forgotten since it was asked for.
        return
    try:
        working.work(found)
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
    except (EndError, Unreadable) as error:
        found.fail(f"{error} See that both ends of the bridge are connected, and ask again.")
    except Exception:
        log.exception("proposal.failed", workspace=workspace_id, proposal=proposal_id)
        found.fail("Inkwell Bridge itself failed on this; its log names the failure.")
