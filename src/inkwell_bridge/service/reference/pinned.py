"""The lists that plans are made under, kept whole: the same content once, and never changed."""

from __future__ import annotations

from django.utils import timezone

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import SalesMasterData, checksum
from inkwell_bridge.service.connections.ends import end_of
from inkwell_bridge.service.connections.models import Connection, ReferenceLoad
from inkwell_bridge.service.reference.models import Entry, Loading, LoadingState, Part

MOST_READ = 64
# Codes among which one that was meant is looked for.
MOST_NEAR = 500
_read: dict[str, MasterData] = {}


def load_master_data(connection: Connection) -> ReferenceLoad:
    """Load an end's reference data, but for its long lists.

    Raises:
        EndError: the end could not be asked.
    """
    return keep_master_data(connection, end_of(connection).master_data())


def keep_master_data(connection: Connection, reference: MasterData | SalesMasterData) -> ReferenceLoad:
    """Keep what was loaded just now."""
    content = reference.as_json()
    load, _ = ReferenceLoad.objects.update_or_create(
        workspace=connection.workspace,
        connection=connection,
        checksum=checksum(content),
        defaults={"loaded_at": timezone.now()},
        create_defaults={"loaded_at": timezone.now(), "content": content},
    )
    return load


def newest_master_data(connection: Connection) -> ReferenceLoad | None:
    """What was loaded last, if anything was."""
    return (
        ReferenceLoad.objects.filter(workspace=connection.workspace_id, connection=connection)
        # Long, and read once a process: see ``master_data_of``.
        .defer("content")
        .order_by("-loaded_at")
        .first()
    )


def master_data_of(load: ReferenceLoad) -> MasterData:
    """A load of books in canonical shape; the same content is read once."""
    if load.checksum not in _read:
        if len(_read) >= MOST_READ:
            _read.clear()
        _read[load.checksum] = MasterData.read(load.content)
    return _read[load.checksum]


def with_house_contacts(reference: MasterData, connection: Connection, *codes: str | None) -> MasterData:
    """The lists of books with the codes of their contacts beside ``codes``, where the contacts were loaded."""
    named = [code for code in codes if code is not None]
    rows = Entry.objects.filter(
        workspace=connection.workspace_id, connection=connection, kind=Part.CONTACTS, gone_in__isnull=True
    )
    loaded = Loading.objects.filter(connection=connection, part=Part.CONTACTS, state=LoadingState.ENDED)
    if not named or not loaded.exists():
        return reference
    others = rows.exclude(code="").order_by("code").values_list("code", flat=True)[:MOST_NEAR]
    there = rows.filter(code__in=named).values_list("code", flat=True)
    return reference.model_copy(update={"contacts": tuple(dict.fromkeys([*there, *others]))})
