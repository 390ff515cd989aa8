"""Asking for a proposal."""

from __future__ import annotations

from datetime import date

from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities, Role
from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import AlreadyUnderWay, begin, forget_old
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.proposals.models import Proposal
from inkwell_bridge.service.refusal import Refusal

# Each holds its examples, and older ones say nothing of today's books.
MOST_KEPT = 3
_TAKEN = {Role.INVOICE, Role.SALES_ORDER, Role.CASH_SALE}


class CannotPropose(Refusal):
    """These books hold nothing that rules for orders could be learnt from."""

    code = "cannot-propose"
    hint = "Rules are learnt where the books take invoices, sales orders or cash sales."


class AlreadyProposing(AlreadyUnderWay):
    """One of the same bridge is under way."""

    code = "already-proposing"
    what = "proposal"


def ask(bridge: Bridge, person: Person, *, first: date, last: date, least: int) -> Proposal:
    """Have rules learnt in the background from the orders of a period and what the books hold for them.

    Raises:
        CannotPropose: the books take no documents of sales.
        AlreadyProposing: another of this bridge is under way.
    """
    capabilities = dialect_of(bridge.books).capabilities
    if not isinstance(capabilities, BooksCapabilities) or not _TAKEN & set(capabilities.documents):
        raise CannotPropose(f"{bridge.books.name} has no documents of sales.")
    of_bridge = Proposal.objects.filter(workspace=bridge.workspace_id, bridge=bridge)

    def make() -> Proposal:
        proposal = Proposal.objects.create(
            workspace_id=bridge.workspace_id, bridge=bridge, first=first, last=last, least=least,
            asked_by=person, asked_at=timezone.now(),
        )  # fmt: skip
        arguments = {"workspace_id": bridge.workspace_id, "proposal_id": proposal.pk}
        queue.defer(queue.PROPOSE, [queue.Call(arguments=arguments, lock=f"proposing:{bridge.pk}")])
        record(bridge.workspace, person, "rulebook.proposed", bridge.slug, first=first.isoformat(),
               last=last.isoformat())  # fmt: skip
        forget_old(of_bridge, keep=MOST_KEPT)
        return proposal

    return begin(make, of_bridge, lambda running: AlreadyProposing(
        f"Proposal {running.pk} for {bridge.name} is under way.", running.pk
    ))  # fmt: skip
