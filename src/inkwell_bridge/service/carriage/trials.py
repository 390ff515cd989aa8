"""Trials: one order carried for real, as drafts, to be looked at in the books; then taken back, or carried for good.

Nothing of a trial is posted, whatever the rules say: every document is left as a draft, and what these books have no
drafts of is not made. A trial needs no lane, no start date, and no published rules. All of it is done by the same steps
as any other carrying, so that whatever is killed on the way, nothing is made twice and nothing is forgotten.
"""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage import adoption, runs, staging
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document, Run, RunEntry
from inkwell_bridge.service.carriage.runs import BY_NUMBER, defer_carrying, end_if_done
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome, EventKind, RunState, Trial
from inkwell_bridge.service.connections.ends import dialect_of, sales_end
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal


class CannotSend(Refusal):
    """This order cannot be carried on trial."""

    code = "cannot-send"
    hint = "Try it without sending anything, or carry it for good by its number."


class NotOnTrial(Refusal):
    """There is no trial of this order to end."""

    code = "not-on-trial"
    hint = "Its page says what became of it."


def start(bridge: Bridge, person: Person, number: str, version: RulebookVersion | None) -> Run:
    """Carry one order on trial, under a version of the rules, draft or published. Makes no call itself.

    Raises:
        CannotSend: there are no rules for orders, the books have no drafts, or the order stands there already.
        NotReady, AlreadyRunning: as any run.
    """
    if version is None or parsed(version).orders is None:
        raise CannotSend(f"{bridge.name} has no rules that say what an order becomes.")
    capabilities = dialect_of(bridge.books).capabilities
    if not isinstance(capabilities, BooksCapabilities) or not set(adoption.ROLES) & set(capabilities.drafts):
        raise CannotSend(f"{bridge.books.name} has no drafts, so what was sent there could not be taken back.")
    there = Crossing.objects.filter(workspace=bridge.workspace_id, bridge=bridge, kind=BY_NUMBER, number=number)
    if any(document.begun for crossing in there for document in crossing.documents.all()):
        raise CannotSend(f"{number} is in the books already, as its page shows.")
    if any(crossing.state == CrossingState.WAITING for crossing in there):
        raise CannotSend(f"{number} is on its way to the books already.")
    return runs.start_trial(bridge, person, number, version)


def read(run: Run) -> None:
    """Read the order of a trial, and let it go as one; repeated after an interruption, it goes on.

    Raises:
        EndError: the shop does not answer, or has no such order.
    """
    kind = kind_named(BY_NUMBER)
    (number,) = run.numbers
    try:
        fetched = sales_end(run.bridge.source).document(kind.source_kind, number)
    except Refused as error:
        if error.why == "not found":
            raise Refused(f"it has no order {number}.", why="not found") from error
        raise
    staging.keep_page(run.bridge, kind, [fetched], run=run, carry=False)
    with transaction.atomic():
        crossing = Crossing.objects.select_related("bridge__books").select_for_update(of=("self",)).get(
            workspace=run.workspace_id, bridge=run.bridge_id, kind=kind.name, source_id=fetched.id
        )  # fmt: skip
        RunEntry.objects.get_or_create(
            run=run, crossing=crossing, defaults={"workspace_id": run.workspace_id, "outcome": EntryOutcome.PENDING}
        )
        # One whose drafts stand there already was let go before an interruption, and is on its way.
        if not any(document.begun for document in crossing.documents.all()):
            _let_go(crossing, Trial.SENT, tried_under=run.rulebook)
        Run.objects.filter(pk=run.pk, state=RunState.READING).update(
            state=RunState.CARRYING, trouble="", next_try_at=None
        )
        end_if_done([run.pk])


def take_back(crossing: Crossing, person: Person) -> Crossing:
    """Have the drafts of a trial voided at the books, in the background. Its contact, where one was made, stays there.

    Raises:
        NotOnTrial: it is not, or its drafts are not made yet.
    """
    return _end(crossing, person, Trial.TAKEN_BACK, EventKind.WITHDRAWN, "trial.taken-back")


def carry_for_good(crossing: Crossing, person: Person) -> Crossing:
    """Let an order on trial be carried like any other, under the rules in force: its drafts are posted, or made anew
    where these rules say otherwise.

    Raises:
        NotOnTrial: it is not, or its drafts are not made yet.
        CannotSend: no rules are in force, or it was placed before the bridge's start date.
    """
    if in_force(crossing.bridge) is None:
        raise CannotSend(f"{crossing.bridge.name} has no rules in force. Publish them first.")
    if adoption.before_start(crossing):
        raise CannotSend(
            f"{crossing.number} was placed before {crossing.bridge.starts_on:%d %B %Y}, from which the bridge carries."
        )
    return _end(crossing, person, Trial.NONE, EventKind.RELEASED, "trial.carried")


@transaction.atomic
def _end(crossing: Crossing, person: Person, trial: Trial, event: EventKind, action: str) -> Crossing:
    found = Crossing.objects.select_related("bridge__books", "bridge__workspace").select_for_update(of=("self",))
    locked = found.get(pk=crossing.pk, workspace=crossing.workspace_id)
    if locked.trial != Trial.SENT or locked.state not in _ENDS:
        raise NotOnTrial(f"{locked.number} is not on trial, or still on its way there.")
    # What was proved as a draft of a trial decides nothing: the rules in force are asked anew.
    Document.objects.filter(crossings=locked, posting_at__isnull=True).update(proved_at=None)
    _let_go(locked, trial, tried_under=None)
    CrossingEvent.objects.create(
        workspace_id=locked.workspace_id, crossing=locked, at=timezone.now(), kind=event, person=person,
        detail={"was": "on trial"},
    )  # fmt: skip
    record(locked.bridge.workspace, person, action, locked.number)
    return locked


_ENDS = (CrossingState.CARRIED, CrossingState.DIFFERS, CrossingState.HELD)


def _let_go(crossing: Crossing, trial: Trial, *, tried_under: RulebookVersion | None) -> None:
    crossing.trial, crossing.tried_under = trial, tried_under
    crossing.state, crossing.cause, crossing.left_out_by = CrossingState.WAITING, "", ""
    crossing.tries, crossing.next_try_at = 0, None
    crossing.save(update_fields=["trial", "tried_under", "state", "cause", "left_out_by", "tries", "next_try_at"])
    defer_carrying([crossing])
