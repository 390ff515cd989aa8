"""Keeping an end's reference data, a page at a time: what is new, what changed, and in the end what has gone."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from inkwell_bridge.core.linking import Known
from inkwell_bridge.core.listing import Listed
from inkwell_bridge.core.text import fit, fit_name
from inkwell_bridge.core.values import canonical
from inkwell_bridge.service.reference.models import Entry, Loading, Part

# The kinds that are parts by themselves; all others come with the short lists.
LONG = tuple(part.value for part in Part if part is not Part.LISTS)
_KEPT = ("code", "name", "details", "search", "code_key", "barcode_key", "email_key", "tax_number_key", "place_key",
         "active", "checksum")  # fmt: skip
# What may tell who somebody is, as it stands on an entry that has gone.
_BLANK: dict[str, Any] = {"name": "", "details": {}, "search": "", "email_key": "", "tax_number_key": "",
                          "place_key": "", "active": False}  # fmt: skip


def of_listed(listed: Listed) -> Entry:
    """An entry of a short list, not saved yet."""
    return _with_marks(
        Entry(kind=listed.kind, source_id=listed.code, code=listed.code, name=listed.name, details=listed.details)
    )


def of_known(kind: str, known: Known) -> Entry:
    """An entry of a long list, not saved yet."""
    details = {name: getattr(known, name) for name in ("barcode", "email", "tax_number", "postcode")}
    told: dict[str, Any] = {name: value for name, value in details.items() if value}
    if known.pack_of != 1:
        told["pack_of"] = f"{known.pack_of:f}"
    if known.parts:
        told["parts"] = [part.as_json() for part in known.parts]
    entry = Entry(
        kind=kind, source_id=known.id, code=known.code[:200], name=known.name[:500], details=told, active=known.active
    )
    for key, most in (("code_key", 200), ("barcode_key", 120), ("email_key", 320), ("tax_number_key", 120),
                      ("place_key", 600)):  # fmt: skip
        setattr(entry, key, getattr(known, key)[:most])
    return _with_marks(entry)


def known_of(entry: Entry) -> Known:
    """A kept entry of a long list, as it is compared."""
    told = entry.details
    return Known(
        id=entry.source_id,
        code=entry.code,
        name=entry.name,
        **{name: told.get(name, "") for name in ("barcode", "email", "tax_number", "postcode")},
        pack_of=told.get("pack_of", "1"),
        parts=tuple(told.get("parts", ())),
        active=entry.active,
    )


def _with_marks(entry: Entry) -> Entry:
    entry.source_id = fit_name(entry.source_id)
    for field in ("code", "name", "details", "code_key", "barcode_key", "email_key", "tax_number_key", "place_key"):
        setattr(entry, field, fit(getattr(entry, field)))
    entry.search = " ".join(part for part in (entry.code, entry.name, entry.details.get("email", "")) if part).lower()
    entry.search = entry.search[:900]
    content = canonical([entry.code, entry.name, entry.details, entry.active])
    entry.checksum = hashlib.blake2b(content.encode(), digest_size=16).hexdigest()
    return entry


@transaction.atomic
def keep(loading: Loading, found: Iterable[Entry]) -> int:
    """Keep a page of one kind; what was seen in this loading already is passed over. Answers how many were new to it.

    Reading a page again changes nothing.
    """
    page = {(entry.kind, entry.source_id): entry for entry in found}
    kinds = {kind for kind, _ in page}
    there = {
        (entry.kind, entry.source_id): entry
        for entry in _of(loading).filter(kind__in=kinds, source_id__in={source_id for _, source_id in page})
    }
    fresh = [_new(loading, entry) for place, entry in page.items() if place not in there]
    Entry.objects.bulk_create(fresh)
    changed, same = [], []
    for place, entry in page.items():
        if place not in there or there[place].seen_in_id == loading.pk:
            continue
        (changed if _differs(there[place], entry) else same).append((there[place], entry))
    Entry.objects.bulk_update(
        [_renewed(old, new, loading) for old, new in changed], [*_KEPT, "seen_in", "changed_in", "gone_in", "added_in"]
    )
    Entry.objects.filter(pk__in=[old.pk for old, _ in same]).update(seen_in=loading)
    return len(fresh) + len(changed) + len(same)


def _of(loading: Loading) -> QuerySet[Entry]:
    return Entry.objects.filter(workspace=loading.workspace_id, connection=loading.connection_id)


def _new(loading: Loading, entry: Entry) -> Entry:
    entry.workspace_id, entry.connection_id = loading.workspace_id, loading.connection_id
    entry.seen_in = entry.added_in = loading
    return entry


def _differs(old: Entry, new: Entry) -> bool:
    return old.checksum != new.checksum or old.gone_in_id is not None


def _renewed(old: Entry, new: Entry, loading: Loading) -> Entry:
    for name in _KEPT:
        setattr(old, name, getattr(new, name))
    # What comes back after it had gone is new again.
    if old.gone_in_id is not None:
        old.added_in, old.gone_in, old.changed_in = loading, None, None
    else:
        old.changed_in = loading
    old.seen_in = loading
    return old


def still_there(loading: Loading, source_ids: Sequence[str]) -> None:
    """What could not be understood this time is there all the same, and stays as it was known."""
    if source_ids:
        _of(loading).filter(kind=loading.part, source_id__in=source_ids).update(seen_in=loading)


def known_before(loading: Loading) -> QuerySet[Entry]:
    """What is known of this loading's part and has not gone."""
    rows = _of(loading).filter(gone_in__isnull=True)
    return rows.exclude(kind__in=LONG) if loading.part == Part.LISTS else rows.filter(kind=loading.part)


def missed(loading: Loading) -> QuerySet[Entry]:
    """What this loading did not find."""
    return known_before(loading).exclude(seen_in=loading)


def mark_gone(loading: Loading) -> int:
    """Mark what this loading did not find; answers how many. Entries of a long list lose what may tell of a person."""
    if loading.part == Part.LISTS:
        return missed(loading).update(gone_in=loading, active=False)
    return missed(loading).update(gone_in=loading, **_BLANK)


def forget_people(entries: QuerySet[Entry]) -> int:
    """Blank what may tell of a person, as of what has gone; answers how many.

    An end that still has them tells of them again when it is loaded the next time.
    """
    return entries.update(**_BLANK, checksum="")
