"""Working a proposal: its examples gathered, kept, and learnt from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import structlog
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.examples import Example, NothingLearnt, propose
from inkwell_bridge.core.examples import Proposal as Learnt
from inkwell_bridge.core.text import fit
from inkwell_bridge.service.asked_work import WorkState
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.proposals.gathering import Gathering, Stopped, shared_codes
from inkwell_bridge.service.proposals.models import ExampleOrder, Proposal
from inkwell_bridge.service.reference.pinned import load_master_data, master_data_of, newest_master_data
from inkwell_bridge.service.rows import insert_rows

log = structlog.get_logger("inkwell.proposals")

# So many that the rules do not explain are named one by one; all are counted.
MOST_NAMED = 1_000
_CHUNK = 200


def work(proposal: Proposal) -> None:
    """Gather the examples and learn from them; begun again, it comes to the same as long as both ends do.

    Reads both ends, and writes to neither. Gathering and learning are half of the way each; it ends where somebody
    has cancelled it.

    Raises:
        EndError: one of the ends does not answer.
    """
    ExampleOrder.objects.filter(workspace=proposal.workspace_id, proposal=proposal).delete()
    if not proposal.while_active.update(state=WorkState.RUNNING, total=None, done=0, unread=0, trouble=""):
        return
    bridge = proposal.bridge
    books = master_data_of(newest_master_data(bridge.books) or load_master_data(bridge.books))
    gathering = Gathering(bridge, proposal.first, proposal.last, lambda done: _heard(proposal, done))
    try:
        orders = gathering.orders()
        proposal.while_active.update(total=3 * len(orders))
        examples = gathering.examples(orders)
        proposal.while_active.update(unread=gathering.unread)
        _keep(proposal, examples)
        capabilities = dialect_of(bridge.books).capabilities
        assert isinstance(capabilities, BooksCapabilities), "the books of a bridge"
        learnt = propose(
            bridge.name, examples, books, capabilities, time_zone=bridge.company.time_zone,
            country=bridge.company.country, source=bridge.source.slug, least=proposal.least,
            advance=lambda done: _go_on(proposal, len(orders) + done),
        )  # fmt: skip
    except Stopped:
        return
    except NothingLearnt as error:
        proposal.fail(str(error))
        return
    proposal.while_active.update(
        state=WorkState.ENDED, ended_at=timezone.now(), done=3 * len(orders), result=_result(learnt)
    )
    log.info("proposal.ended", workspace=proposal.workspace_id, proposal=proposal.pk, examples=learnt.examples)


def _heard(proposal: Proposal, done: int) -> bool:
    """Write how far it is; answers whether it is still wanted."""
    return bool(proposal.while_active.update(done=done))


def _go_on(proposal: Proposal, done: int) -> None:
    if not _heard(proposal, done):
        raise Stopped


def _keep(proposal: Proposal, examples: Sequence[Example]) -> None:
    """Keep the examples, without anything of a person: whoever learns from them elsewhere needs no more."""
    shared = shared_codes(examples)
    for start in range(0, len(examples), _CHUNK):
        with transaction.atomic():
            insert_rows(
                [
                    ExampleOrder(
                        workspace_id=proposal.workspace_id, proposal=proposal, number=one.order.number,
                        order=fit(_without_people(one.order)),
                        records=[
                            fit(record.model_copy(update={"contact_id": ""}).as_json()) for record in one.records
                        ],
                        contact=one.contact if one.contact in shared else "",
                    )
                    for one in examples[start : start + _CHUNK]
                ]
            )  # fmt: skip


def _without_people(order: Order) -> dict[str, Any]:
    return {name: value for name, value in order.as_json().items() if name not in Order.PERSONAL}


def _result(learnt: Learnt) -> dict[str, Any]:
    said = fit(learnt.as_json())
    return said | {"exceptions": said["exceptions"][:MOST_NAMED], "unexplained": len(said["exceptions"])}
