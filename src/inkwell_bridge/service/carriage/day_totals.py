"""The totals of days, put together now and then: whoever writes figures adds rows, and nobody waits for anybody."""

from __future__ import annotations

from django.db import connection, transaction

from inkwell_bridge.service.carriage.models import DayTotal

# So many days at once: each is one statement, and takes as long as the day was busy.
MOST_DAYS = 200
_SUMMED = ("count", "net", "tax", "gross")
_KEY = ("workspace_id", "bridge_id", "grain", "section", "date", "currency", "tax_code", "tender", "side", "role",
        "account")  # fmt: skip
# Nothing that is written meanwhile is among the rows that are taken away, so nothing is lost or counted twice.
_MERGE = f"""
    WITH taken AS (
        DELETE FROM carriage_daytotal WHERE workspace_id = %s AND date = %s RETURNING *)
    INSERT INTO carriage_daytotal ({", ".join((*_KEY, *_SUMMED))}, merged)
    SELECT {", ".join(_KEY)}, {", ".join(f"sum({name})" for name in _SUMMED)}, true
    FROM taken GROUP BY {", ".join(_KEY)}
    HAVING {" OR ".join(f"sum({name}) <> 0" for name in _SUMMED)}
"""  # noqa: S608


def merge() -> int:
    """Put together the rows of the days on which something was written; answers how many days. Upkeep's alone: two at
    once would take the same rows."""
    days = DayTotal.objects.filter(merged=False).order_by().values_list("workspace", "date").distinct()[:MOST_DAYS]
    for workspace, day in list(days):
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(_MERGE, [workspace, day])
    return len(days)
