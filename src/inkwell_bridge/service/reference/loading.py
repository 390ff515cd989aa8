"""Loading an end's reference data: asked for by a person or the timetable, done by a job for each part."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.db import IntegrityError, transaction
from django.db.models import F
from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities, Directory
from inkwell_bridge.core.commerce import SalesCapabilities, SourceKind
from inkwell_bridge.core.linking import known_contact, known_customer, known_item, known_product
from inkwell_bridge.core.listing import listed
from inkwell_bridge.ends.contract import BooksEnd, SalesEnd
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.shapes import Entered, Fetched
from inkwell_bridge.service import queue
from inkwell_bridge.service.connections.ends import dialect_of, end_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference import entries
from inkwell_bridge.service.reference.models import ACTIVE_LOADING, Entry, Loading, LoadingState, Part
from inkwell_bridge.service.reference.pinned import keep_master_data
from inkwell_bridge.service.statistics import MANY, analyse_table

MOST_PAGES = 100_000
# More than these and more than half of a list gone at once is more likely a slip of the end.
MOST_GONE = 20


def parts_of(connection: Connection) -> tuple[Part, ...]:
    """What can be loaded from an end, by what it can do."""
    capabilities = dialect_of(connection).capabilities
    found = [Part.LISTS]
    if isinstance(capabilities, BooksCapabilities):
        found += [Part.ITEMS] if capabilities.items else []
        found += [Part.CONTACTS] if capabilities.contacts else []
    elif isinstance(capabilities, SalesCapabilities):
        found += [Part.PRODUCTS] if SourceKind.PRODUCTS in capabilities.lists else []
        found += [Part.CUSTOMERS] if SourceKind.CUSTOMERS in capabilities.lists else []
    return tuple(found)


def ask(connection: Connection, person: Person | None, parts: Sequence[Part] | None = None) -> list[Loading]:
    """Have parts of an end's names loaded in the background; one that is under way already is not started twice."""
    wanted = [part for part in parts_of(connection) if parts is None or part in parts]
    found = [_ask(connection, person, part) for part in wanted]
    if person is not None:
        record(connection.workspace, person, "reference.asked", connection.slug, parts=[str(part) for part in wanted])
    return found


def _ask(connection: Connection, person: Person | None, part: Part) -> Loading:
    try:
        with transaction.atomic():
            first = not Loading.objects.filter(connection=connection, part=part, state=LoadingState.ENDED).exists()
            loading = Loading.objects.create(
                workspace_id=connection.workspace_id,
                connection=connection,
                part=part,
                asked_by=person,
                asked_at=timezone.now(),
                first=first,
            )
            arguments = {"workspace_id": connection.workspace_id, "loading_id": loading.pk}
            queue.defer(queue.LOAD, [queue.Call(arguments=arguments, lock=f"loading:{connection.pk}:{part}")])
            return loading
    except IntegrityError:
        active = Loading.objects.filter(connection=connection, part=part, state__in=ACTIVE_LOADING).first()
        # Where it ended between our try and our look, the way is free now.
        return active or _ask(connection, person, part)


def load(loading: Loading) -> None:
    """Go over one part from its first page to its last; begun again, it comes to the same.

    Raises:
        EndError: the end failed on the way; what was kept stays, and is gone over again.
    """
    Loading.objects.filter(pk=loading.pk).update(
        state=LoadingState.LOADING, read=0, expected=None, unreadable=0, trouble=""
    )
    end = end_of(loading.connection)
    if loading.part == Part.LISTS:
        reference = end.master_data()
        keep_master_data(loading.connection, reference)
        _keep(loading, _Batch(entries=[entries.of_listed(one) for one in listed(reference)]))
    else:
        _keep_all(loading, _batches(loading, end))
    _finish(loading)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Batch:
    entries: list[Entry]
    unreadable: tuple[str, ...] = ()
    total: int | None = None


def _keep_all(loading: Loading, batches: Iterator[_Batch]) -> None:
    read, look_at = 0, MANY
    for batch in batches:
        _keep(loading, batch)
        read += len(batch.entries)
        if read >= look_at:
            analyse_table(Entry)
            look_at *= 5


def _keep(loading: Loading, batch: _Batch) -> None:
    entries.keep(loading, batch.entries)
    entries.still_there(loading, batch.unreadable)
    counted = {"read": F("read") + len(batch.entries), "unreadable": F("unreadable") + len(batch.unreadable)}
    if batch.total is not None:
        counted["expected"] = batch.total
    Loading.objects.filter(pk=loading.pk).update(**counted)


def _batches(loading: Loading, end: SalesEnd | BooksEnd) -> Iterator[_Batch]:
    page: str | None = None
    for _ in range(MOST_PAGES):
        batch, onward = _page(loading.part, end, page)
        yield batch
        if onward is None:
            return
        if onward == page:
            break
        page = onward
    raise Away("The end's pages lead in a circle, so they could not be read to the end.")


def _page(part: str, end: SalesEnd | BooksEnd, page: str | None) -> tuple[_Batch, str | None]:
    if part in {Part.ITEMS, Part.CONTACTS}:
        found = end.directory(Directory(part), page=page)  # type: ignore[union-attr]
        return _Batch(entries=[_of_books(part, one) for one in found.entries], total=found.total), found.next
    fetched = end.documents(SourceKind(part), changed_since=None, page=page)
    read = [entry for one in fetched.documents if (entry := _of_sales(part, one)) is not None]
    unreadable = tuple(one.id for one in fetched.documents if one.document is None)
    return _Batch(entries=read, unreadable=unreadable, total=fetched.total), fetched.next


def _of_books(part: str, entered: Entered) -> Entry:
    what = entered.what
    if part == Part.ITEMS:
        return entries.of_known(part, known_item(entered.id, what))  # type: ignore[arg-type]
    return entries.of_known(part, known_contact(entered.id, entered.code, what))  # type: ignore[arg-type]


def _of_sales(part: str, fetched: Fetched) -> Entry | None:
    if fetched.document is None:
        return None
    known = known_product if part == Part.PRODUCTS else known_customer
    return entries.of_known(part, known(fetched.document))  # type: ignore[operator]


@transaction.atomic
def _finish(loading: Loading) -> None:
    missed, there = entries.missed(loading).count(), entries.known_before(loading).count()
    if missed > MOST_GONE and missed * 2 > there and not _missed_before(loading, missed):
        text = (
            f"{missed:,} of {there:,} were missing all at once, so nothing was marked as gone. "
            "If that is right, load once more."
        )
        Loading.objects.filter(pk=loading.pk).update(
            state=LoadingState.FAILED, ended_at=timezone.now(), trouble=text, gone=missed
        )
        return
    gone = entries.mark_gone(loading)
    rows = Entry.objects.filter(connection=loading.connection_id)
    Loading.objects.filter(pk=loading.pk).update(
        state=LoadingState.ENDED,
        ended_at=timezone.now(),
        added=rows.filter(added_in=loading).count(),
        changed=rows.filter(changed_in=loading).count(),
        gone=gone,
        trouble="",
    )
    if loading.part != Part.LISTS:
        # Whoever keeps links looks at what is new by itself.
        arguments = {"workspace_id": loading.workspace_id, "connection_id": loading.connection_id}
        queue.defer(queue.MATCH, [queue.Call(arguments=arguments, lock=f"matching:{loading.connection_id}")])


def _missed_before(loading: Loading, missed: int) -> bool:
    """Whether the loading before this one missed as many: then it is no slip of the end."""
    before = Loading.objects.filter(connection=loading.connection_id, part=loading.part, pk__lt=loading.pk)
    newest = before.order_by("-pk").first()
    return newest is not None and newest.state == LoadingState.FAILED and newest.gone == missed


def fail(loading: Loading, why: str) -> None:
    """End a loading that cannot go on; what was known before stays."""
    Loading.objects.filter(pk=loading.pk).update(state=LoadingState.FAILED, ended_at=timezone.now(), trouble=why)
