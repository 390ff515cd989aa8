"""Asking for a proposal."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities, Role
from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import ACTIVE
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


class AlreadyProposing(Refusal):
    """One of the same bridge is under way."""

    code = "already-proposing"

    def __init__(self, text: str, running: int) -> None:
        self.hint = f"Wait for it, or cancel proposal {running}."
        self._running = running
        super().__init__(text)

    def members(self) -> dict[str, Any]:
        """Which one."""
        return {"proposal": self._running}


def ask(bridge: Bridge, person: Person, *, first: date, last: date, least: int) -> Proposal:
    """Have rules learnt in the background from the orders of a period and what the books hold for them.

    Raises:
        CannotPropose: the books take no documents of sales.
        AlreadyProposing: another of this bridge is under way.
    """
    capabilities = dialect_of(bridge.books).capabilities
    if not isinstance(capabilities, BooksCapabilities) or not _TAKEN & set(capabilities.documents):
        raise CannotPropose(f"{bridge.books.name} has no documents of sales.")
    try:
        with transaction.atomic():
            proposal = Proposal.objects.create(
                workspace_id=bridge.workspace_id, bridge=bridge, first=first, last=last, least=least,
                asked_by=person, asked_at=timezone.now(),
            )  # fmt: skip
            arguments = {"workspace_id": bridge.workspace_id, "proposal_id": proposal.pk}
            queue.defer(queue.PROPOSE, [queue.Call(arguments=arguments, lock=f"proposing:{bridge.pk}")])
            record(bridge.workspace, person, "rulebook.proposed", bridge.slug, first=first.isoformat(),
                   last=last.isoformat())  # fmt: skip
            of_bridge = Proposal.objects.filter(workspace=bridge.workspace_id, bridge=bridge).order_by("-pk")
            old = list(of_bridge.values_list("pk", flat=True)[MOST_KEPT:])
            Proposal.objects.filter(pk__in=old).exclude(state__in=ACTIVE).delete()
            return proposal
    except IntegrityError:
        running = Proposal.objects.filter(bridge=bridge, state__in=ACTIVE).first()
        if running is None:
            return ask(bridge, person, first=first, last=last, least=least)
        raise AlreadyProposing(f"Proposal {running.pk} for {bridge.name} is under way.", running.pk) from None
