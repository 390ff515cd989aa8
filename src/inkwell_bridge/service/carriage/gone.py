"""Documents that their origin has no more: what it told of them counts on its side no longer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from django.utils import timezone

from inkwell_bridge.core.proof import Side
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import figures
from inkwell_bridge.service.carriage.kinds.protocol import Kind, Listed
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent
from inkwell_bridge.service.carriage.states import EventKind
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.rows import insert_rows, write_rows


def staging_lock(bridge: Bridge) -> str:
    """The lock that whoever writes what a bridge's origin says holds."""
    return f"staging:{bridge.workspace_id}:{bridge.pk}"


def mark_gone(bridge: Bridge, keys: Sequence[int], *, side: Side = Side.SOURCE) -> None:
    """Take what the origin told of these off its ``side``; what stands in the books of an order stands there, and is a
    difference.

    Nothing is voided: a shop may clear its archive, and the sale was one all the same. Five statements.
    """
    if not keys:
        return
    with transaction_under(staging_lock(bridge)):
        rows = Crossing.objects.filter(pk__in=keys, gone_at=None).select_related("bridge__company")
        crossings = list(rows.select_for_update(of=("self",)))
        for crossing in crossings:
            crossing.gone_at = timezone.now()
        write_rows(crossings, ("gone_at",))
        figures.write({crossing: {} for crossing in crossings}, (side,))
        _tell(crossings, EventKind.GONE)


def there_again(bridge: Bridge, kind: Kind, crossings: Sequence[Crossing], listed: Mapping[str, Listed]) -> None:
    """What was gone is handed out again as it was: it counts as before.

    Expects the lock of ``staging_lock``.
    """
    for crossing in crossings:
        crossing.gone_at = None
    write_rows(list(crossings), ("gone_at",))
    wanted = {one: figures.of_source(kind, listed[one.source_id], one.business_date, bridge) for one in crossings}
    figures.write(wanted, (Side.SOURCE,))
    _tell(crossings, EventKind.THERE_AGAIN)


def _tell(crossings: Sequence[Crossing], kind: EventKind) -> None:
    now = timezone.now()
    insert_rows([CrossingEvent(workspace_id=one.workspace_id, crossing=one, at=now, kind=kind) for one in crossings])
