"""Erasing what tells of one buyer: figures, checksums and history stay, who it was about goes.

Of buyers on documents the e-mail stands only sealed here, so these are gone over once, some rows at a time, in the
background. Neither the job nor the record of the wish holds the e-mail: both know its digest.

Source: the right to erasure (Regulation (EU) 2016/679, article 17; the same article of the UK GDPR). What the books
hold must stay as long as tax law says, and is not touched.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import reduce
from operator import or_
from typing import Any

from django.db import transaction
from django.db.models import F, Q
from django.utils import timezone

from inkwell_bridge.core.comparing import code_key
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service import queue, vault
from inkwell_bridge.service.blinding import blind
from inkwell_bridge.service.carriage.contacts import forget_buyer
from inkwell_bridge.service.carriage.models import Crossing, Erasure, PersonalData
from inkwell_bridge.service.carriage.snapshots import people_of
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.links.models import Link
from inkwell_bridge.service.people.models import Person, Workspace
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference.entries import forget_people
from inkwell_bridge.service.reference.models import Entry, Part

STEP = 500
MOST_KEPT_NAMED = 100


@transaction.atomic
def ask(workspace: Workspace, person: Person, email: str) -> Erasure:
    """Have all that tells of the buyer with that e-mail erased: names at once, what is sealed in the background."""
    erasure = Erasure.objects.create(
        workspace=workspace, digest=_digest(workspace.pk, email), asked_by=person, asked_at=timezone.now(),
        names=forget_people(Entry.objects.filter(pk__in=_names(workspace, email))),
    )  # fmt: skip
    # The trail says who asked and when; whom it was about must not stand there.
    record(workspace, person, "buyer.erased", f"erasure {erasure.pk}")
    arguments = {"workspace_id": workspace.pk, "erasure_id": erasure.pk}
    queue.defer(queue.ERASE, [queue.Call(arguments=arguments, lock=f"erasing:{workspace.pk}")])
    return erasure


def _names(workspace: Workspace, email: str) -> set[int]:
    """The entries of customers and contacts with that e-mail, and of the contacts that these were ever linked to: a
    contact may tell of the buyer by name alone."""
    entries = Entry.objects.filter(workspace=workspace)
    # The index of e-mails begins with the connection.
    ends = Connection.objects.filter(workspace=workspace).values_list("pk", flat=True)
    with_email = entries.filter(
        connection__in=list(ends), kind__in=(Part.CUSTOMERS, Part.CONTACTS), email_key=code_key(email)
    )  # fmt: skip
    customers = with_email.filter(kind=Part.CUSTOMERS).values_list("connection_id", "source_id")
    links = Link.objects.filter(workspace=workspace, kind=LinkKind.CUSTOMERS).exclude(target_id="")
    linked = links.filter(_any_of(("source_id", "key"), customers)).values_list("books_id", "target_id")
    contacts = {*linked, *forget_buyer(workspace.pk, email)}
    named = entries.filter(_any_of(("connection_id", "source_id"), contacts), kind=Part.CONTACTS)
    return {*with_email.values_list("pk", flat=True), *named.values_list("pk", flat=True)}


def _any_of(fields: tuple[str, str], pairs: Iterable[tuple[int, str]]) -> Q:
    """Any of these pairs of values; none of them where there is none."""
    return reduce(or_, (Q(**dict(zip(fields, pair, strict=True))) for pair in pairs), Q(pk__in=()))


def erase(erasure: Erasure) -> None:
    """Go over all that is kept of buyers; a step of rows in a transaction. Repeated, it begins anew and adds nothing
    twice, for what was erased is not looked at again."""
    Erasure.objects.filter(pk=erasure.pk).update(looked_at=0)
    last = 0
    while rows := list(_sealed(erasure, after=last)):
        last = rows[-1].pk
        with transaction.atomic():
            theirs = [row for row in rows if _tells_of(row, erasure)]
            kept = _needed_still(theirs)
            gone = [row.pk for row in theirs if row.snapshot_id not in kept]
            PersonalData.objects.filter(pk__in=gone).update(sealed=None, erased_at=timezone.now())
            Erasure.objects.filter(pk=erasure.pk).update(
                looked_at=F("looked_at") + len(rows), snapshots=F("snapshots") + len(gone)
            )
            if kept:
                erasure.kept = sorted({*erasure.kept, *kept.values()})[:MOST_KEPT_NAMED]
                erasure.save(update_fields=["kept"])
    Erasure.objects.filter(pk=erasure.pk).update(ended_at=timezone.now())


def _sealed(erasure: Erasure, *, after: int) -> Sequence[PersonalData]:
    rows = PersonalData.objects.filter(workspace=erasure.workspace_id, sealed__isnull=False, pk__gt=after)
    return rows.order_by("pk")[:STEP]


def _tells_of(row: PersonalData, erasure: Erasure) -> bool:
    try:
        people = people_of(row)
    except vault.Unreadable:
        # No key opens it any more, so it tells nobody anything.
        return False
    return any(
        _digest(erasure.workspace_id, email) == erasure.digest
        for told in people.values()
        for email in _emails(json.loads(told))
    )


def _emails(told: Any) -> Iterator[str]:
    if isinstance(told, Mapping) and isinstance(told.get("email"), str):
        yield told["email"]


def _needed_still(rows: Sequence[PersonalData]) -> dict[int, str]:
    """Those whose document has not crossed yet, with its number: without its buyer it would go to the wrong contact."""
    open_ones = Crossing.objects.filter(
        snapshot__in=[row.snapshot_id for row in rows], state__in=(CrossingState.WAITING, CrossingState.HELD)
    )
    return dict(open_ones.values_list("snapshot_id", "number"))


def _digest(workspace_id: int, email: str) -> str:
    return blind(email.strip().casefold(), purpose=f"erasure:{workspace_id}")
