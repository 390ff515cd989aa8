"""What a person decides for one document that is held, instead of mending its cause."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.amendments import CannotPutRight
from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.core.findings import DIFFERS_THERE, Cause, Finding
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.carriage import reading_again, releases
from inkwell_bridge.service.carriage.decided import (
    ABOUT_THEIRS,
    ACCEPTED,
    DIFFERED,
    EDITED,
    NOTHING_CROSSES,
    PENNY,
    PUTS_RIGHT,
    accepts_difference,
    differences_digest,
)
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent
from inkwell_bridge.service.carriage.putting_right import put_right
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind, EventKind
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.vault import Unreadable

LONGEST_NOTE = 500


class CannotDecide(Refusal):
    """There is nothing to decide, or not that."""

    code = "cannot-decide"
    hint = "Look at the document: what holds it is said there."


def decide(crossing: Crossing, person: Person, kind: DecisionKind, note: str) -> None:
    """Keep a decision for one document, and let it go on by it. Expects no transaction.

    Calls: what is to be put right in the books is read there once more before.

    Raises:
        CannotDecide: it is not held, something of it stands in the books, or it is held by another cause than that
            which the decision is about; the books could not be asked, or hold something else again by now.
    """
    if kind in PUTS_RIGHT and crossing.state == CrossingState.DIFFERS:
        _as_shown(crossing)
    _decide(crossing, person, kind, note)


def _as_shown(crossing: Crossing) -> None:
    """Refuse to go on from what somebody was shown, where the books hold something else by now."""
    shown = crossing.findings
    try:
        reading_again.read_now(crossing)
    except (EndError, Unreadable) as error:
        raise CannotDecide(f"{crossing.bridge.books.name} could not be asked what stands there: {error}") from error
    now = Crossing.objects.get(pk=crossing.pk)
    if now.findings != shown:
        raise CannotDecide(f"{crossing.number} was changed in the books again since; look at it once more.")


@transaction.atomic
def _decide(crossing: Crossing, person: Person, kind: DecisionKind, note: str) -> None:
    row = (
        Crossing.objects.select_for_update(of=("self",))
        .select_related("snapshot", "rulebook", "bridge__books", "bridge__source")
        .get(pk=crossing.pk)
    )
    if row.state not in (CrossingState.HELD, CrossingState.DIFFERS):
        raise CannotDecide(f"{row.number} is {row.state}; only what is held is decided by a person.")
    if row.state == CrossingState.DIFFERS:
        _decide_what_differs(row, person, kind, note)
        return
    if kind == DecisionKind.REISSUE:
        raise CannotDecide(f"{row.number} is held; credited and made anew is what differs in the books.")
    if kind == DecisionKind.ACCEPT_DIFFERENCE and row.cause != Cause.PENNY:
        raise CannotDecide(f"{row.number} is held by another cause than a difference: {row.cause}.")
    # Whatever holds it by now: rules may have no place for what it changed to.
    changed = row.posted_snapshot_id not in (None, row.snapshot_id)
    if kind == DecisionKind.KEEP_POSTED and not changed:
        raise CannotDecide(f"{row.number} is held by another cause than a change after it was posted: {row.cause}.")
    if kind == DecisionKind.POST_DIFFERENCE and not (changed and row.cause == Cause.SOURCE_CHANGED.value):
        raise CannotDecide(f"{row.number} is held by another cause than a change after it was posted: {row.cause}.")
    if kind in ABOUT_THEIRS and row.cause != Cause.BOOKS_EDITED.value:
        raise CannotDecide(f"{row.number} is held by another cause than a change in the books: {row.cause}.")
    if kind in NOTHING_CROSSES and any(document.posting_at for document in row.documents_in_order):
        raise CannotDecide(f"A part of {row.number} stands in the books, so it cannot be left out any more.")
    decision: dict[str, str | bool] = {"kind": kind.value, "note": note, "by": person.email}
    if kind in (DecisionKind.KEEP_POSTED, DecisionKind.POST_DIFFERENCE):
        # Of this reading alone: should the order change once more, somebody looks once more.
        decision["digest"] = row.snapshot.books_digest
    if kind in ABOUT_THEIRS:
        # Of what was found changed in the books, and of nothing else that somebody may change there later.
        decision[EDITED] = checksum(row.findings[0]["text"])
    _keep(row, person, decision)


def _decide_what_differs(row: Crossing, person: Person, kind: DecisionKind, note: str) -> None:
    """Of what stands in the books otherwise than planned, or not at all any more."""
    decision: dict[str, str | bool] = {"kind": kind.value, "note": note, "by": person.email, DIFFERED: row.cause}
    # Settled anew it would be held again for what somebody accepted already.
    decision[PENNY] = accepts_difference(row)
    if kind == DecisionKind.ACCEPT_DIFFERENCE:
        decision[ACCEPTED] = _differences(row)
    elif kind in PUTS_RIGHT:
        try:
            put_right(row, kind)
        except CannotPutRight as reason:
            refused = CannotDecide(str(reason))
            refused.hint = reason.hint
            raise refused from reason
    else:
        raise CannotDecide(
            f"{row.number} stands in the books; what can be decided of it is to accept the difference, to put ours "
            "back, or to credit and reissue it."
        )
    _keep(row, person, decision)


def _differences(row: Crossing) -> str:
    """The digest of what differs, where one can live with it.

    Raises:
        CannotDecide: the document is missing there, or stands there twice.
    """
    differing = [one for one in map(Finding.read, row.findings) if one.cause in DIFFERS_THERE]
    if any(one.id == "PROOF-E001" for one in differing):
        raise CannotDecide(
            f"{row.number} is not in the books, or stands there twice; that is mended there, and cannot be accepted."
        )
    return differences_digest(differing)


@transaction.atomic
def take_back(crossing: Crossing, person: Person) -> None:
    """Forget a decision, and have the document planned anew.

    Raises:
        CannotDecide: there is none, or it is carried by it and stands in the books.
    """
    row = Crossing.objects.select_for_update(of=("self",)).get(pk=crossing.pk)
    if row.state == CrossingState.CARRIED and row.decision and row.decision["kind"] == DecisionKind.KEEP_POSTED.value:
        # Held again, as it was before.
        row.state = CrossingState.HELD
        Crossing.objects.filter(pk=row.pk).update(state=row.state, cause=Cause.SOURCE_CHANGED.value)
    elif row.state == CrossingState.CARRIED and row.decision and ACCEPTED in row.decision:
        row.state = CrossingState.DIFFERS
        Crossing.objects.filter(pk=row.pk).update(
            state=row.state, cause=row.decision.get(DIFFERED, Cause.NOT_PROVED.value)
        )
    if row.decision is None or row.state not in releases.STOPPED:
        raise CannotDecide(f"{row.number} is {row.state}, and nothing was decided that could be taken back.")
    _keep(row, person, None)


def _keep(row: Crossing, person: Person, decision: dict[str, str | bool] | None) -> None:
    was = row.decision
    Crossing.objects.filter(pk=row.pk).update(decision=decision)
    CrossingEvent.objects.create(
        workspace_id=row.workspace_id, crossing=row, at=timezone.now(), kind=EventKind.DECIDED, person=person,
        detail=decision or {"kind": "taken back"},
    )  # fmt: skip
    record(person=person, workspace=row.workspace, action="crossing.decided", about=row.number, was=was, now=decision)
    releases.release(Crossing.objects.filter(pk=row.pk), row.workspace, person)
