"""Telling orders and refunds of money that somebody else than their sales side knows of: they are carried with it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import told_payments
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.carriage.staging import keep_page
from inkwell_bridge.service.carriage.told_payments import Told

PAGE = 500


def tell(told: Sequence[Told], said: str) -> None:
    """Keep what was told, and have each order or refund carried once more; their history says ``said``."""
    told_payments.keep(told)
    of: dict[tuple[Bridge, str], list[int]] = defaultdict(list)
    for one in told:
        of[one.crossing.bridge, one.crossing.kind].append(one.crossing.pk)
    for (bridge, kind), keys in of.items():
        for start in range(0, len(keys), PAGE):
            keep_page(bridge, kind_named(kind), _as_they_are(keys[start : start + PAGE]), said=said)


def _as_they_are(crossings: Sequence[int]) -> list[Fetched]:
    """Orders or refunds as they were read last; their money is added when they are kept. One statement."""
    rows = Crossing.objects.select_related("snapshot__personal").defer("planned").filter(pk__in=crossings)
    return [Fetched(id=row.source_id, number=row.number, document=document_of(row.snapshot), changed_at=None)
            for row in rows.order_by("pk") if row.snapshot.content]  # fmt: skip
