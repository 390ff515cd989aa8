"""What waits for a person."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db.models import Count, Sum

from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.people.models import Workspace

ZERO = Decimal(0)


def holds(workspace: Workspace) -> list[dict[str, Any]]:
    """What waits for a person, by cause and currency, with the money behind each; the largest first."""
    rows = (
        Crossing.objects.filter(workspace=workspace, state__in=(CrossingState.HELD, CrossingState.DIFFERS))
        .values("cause", "currency")
        .annotate(count=Count("id"), sum_gross=Sum("gross"))
        .order_by("-count", "cause")
    )
    return [
        {"cause": row["cause"], "currency": row["currency"], "count": row["count"], "gross": row["sum_gross"] or ZERO}
        for row in rows
    ]
