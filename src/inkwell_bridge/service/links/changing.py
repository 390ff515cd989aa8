"""Changing links: every change is one row that names what it made and what it ended, and can be taken back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal

from django.db import transaction

from inkwell_bridge.core.values import Value
from inkwell_bridge.service.connections.actions import settle
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.models import Change, Link, What
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.statistics import MANY, analyse_table

CHUNK = 1000


class Target(Value):
    """One item or contact that a link leads to; without an id, none."""

    id: str = ""
    code: str = ""
    quantity: Decimal = Decimal(1)
    share: Decimal | None = None
    rule: str = ""


class NothingToUndo(Refusal):
    """There is no change that could be taken back."""

    code = "nothing-to-undo"
    hint = "The history of the links shows what was changed, by whom, and what was taken back."


class ChangedSince(Refusal):
    """A change cannot be taken back any more."""

    code = "changed-since"
    hint = "Take back the later change first, or answer those anew."


def put(
    between: Between,
    answers: Mapping[str, Sequence[Target]],
    *,
    what: What,
    person: Person | None,
    text: str = "",
    only_open: bool = False,
    ends: Iterable[str] = (),
) -> Change | None:
    """Let each key lead to its targets, in place of what stood there; keys in ``ends`` lead nowhere any more.

    ``only_open``: what somebody has answered meanwhile stays. Where nothing would change, nothing is written.
    """
    with transaction_under(between.lock):
        wanted = dict(answers)
        # Read under the lock: the rules that match run beside people who answer.
        if only_open:
            for key in _standing(between, list(wanted)):
                del wanted[key]
        standing = _standing(between, [*wanted, *ends])
        wanted = {key: targets for key, targets in wanted.items() if not _same(standing.get(key, []), targets)}
        stale = [link.pk for key in {*wanted, *ends} for link in standing.get(key, [])]
        if not wanted and not stale:
            return None
        # The change comes first: its number is the version of the links that plans are pinned to.
        change = Change.objects.create(**between.place, what=what, person=person, text=text)
        _end(stale, change)
        _make(between, wanted, change)
        if len(wanted) + len(stale) >= MANY:
            transaction.on_commit(lambda: analyse_table(Link))
        settle(between.source)
        settle(between.books)
        if person is not None:
            record(between.workspace, person, f"links.{what}", between.source.slug, books=between.books.slug,
                   kind=between.kind.value, change=change.pk, number=len(wanted) or len(stale))  # fmt: skip
        return change


def undo(between: Between, change: Change, person: Person | None) -> Change:
    """Take a change back: what it made ends, what it ended stands again.

    Raises:
        ChangedSince: what it made was changed again since.
    """
    with transaction_under(between.lock):
        # Two who take it back at once: the second finds it done.
        if hasattr(change, "undone_by"):
            raise ChangedSince("This change was taken back already.")
        before = list(change.ended.all())
        made = _by_key(change.made.order_by("pk"))
        standing = _standing(between, list({*made, *(link.key for link in before)}))
        # A later answer that was taken back itself left rows of its own, which say the same.
        if any(_told(standing.get(key, [])) != _told(made.get(key, [])) for key in {*standing, *made}):
            raise ChangedSince("What this change made was changed again since.")
        # Nothing is deleted: what stood and what was taken back stays to be read.
        undoing = Change.objects.create(
            **between.place, what=What.UNDONE, person=person, undoes=change, text=change.text
        )
        _end([link.pk for links in standing.values() for link in links], undoing)
        Link.objects.bulk_create([_again(link, undoing) for link in before], batch_size=CHUNK)
        record(between.workspace, person, "links.undone", between.source.slug, books=between.books.slug,
               kind=between.kind.value, change=change.pk)  # fmt: skip
        return undoing


def newest_to_undo(between: Between, person: Person | None = None) -> Change:
    """The newest change that can be taken back; of ``person`` alone, where named.

    Raises:
        NothingToUndo: there is none.
    """
    rows = between.changes().filter(undone_by__isnull=True, what__in=(What.ANSWERED, What.IMPORTED))
    found = (rows.filter(person=person) if person else rows).first()
    if found is None:
        raise NothingToUndo("There is no answer and no import that could be taken back.")
    return found


def _standing(between: Between, keys: Sequence[str]) -> dict[str, list[Link]]:
    found: dict[str, list[Link]] = {}
    for start in range(0, len(keys), CHUNK):
        found |= _by_key(between.links().filter(key__in=keys[start : start + CHUNK]).order_by("pk"))
    return found


def _by_key(links: Iterable[Link]) -> dict[str, list[Link]]:
    found: dict[str, list[Link]] = {}
    for link in links:
        found.setdefault(link.key, []).append(link)
    return found


def _told(links: Iterable[Link]) -> set[tuple[str, Decimal, Decimal | None]]:
    return {(link.target_id, link.quantity, link.share) for link in links}


def _same(links: Sequence[Link], targets: Sequence[Target]) -> bool:
    return bool(links) and _told(links) == {(target.id, target.quantity, target.share) for target in targets}


def _end(numbers: Sequence[int], change: Change) -> None:
    for start in range(0, len(numbers), CHUNK):
        Link.objects.filter(pk__in=numbers[start : start + CHUNK]).update(ended_in=change)


def _make(between: Between, wanted: Mapping[str, Sequence[Target]], change: Change) -> None:
    rows = [
        Link(
            **between.place,
            key=key,
            target_id=target.id,
            target_code=target.code,
            quantity=target.quantity,
            share=target.share,
            rule=target.rule,
            made_in=change,
        )
        for key, targets in wanted.items()
        for target in targets
    ]
    Link.objects.bulk_create(rows, batch_size=CHUNK)


def _again(link: Link, change: Change) -> Link:
    link.pk, link.made_in, link.ended_in = None, change, None
    link._state.adding = True
    return link
