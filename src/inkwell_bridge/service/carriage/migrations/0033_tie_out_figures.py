"""What the tie-out by document stands on, worked out for everything that was carried before."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from typing import Any

from django.db import migrations, models

from inkwell_bridge.core.proof import Amounts, Gap, Key, gaps, not_as_money

# Orders stand for sales and refunds for refunds; the money of both is a section of its own. Figures are kept as they
# were written, so their guard is lifted for this alone.
_SECTIONS = """
    ALTER TABLE carriage_figure DISABLE TRIGGER carriage_figure_kept;
    UPDATE carriage_figure AS figure SET section = CASE
        WHEN figure.side <> 'reconciling' AND figure.role IN ('payment', 'refund payment') THEN 'money'
        WHEN crossing.kind = 'orders' THEN 'sales' ELSE 'refunds' END
    FROM carriage_crossing AS crossing
    WHERE crossing.id = figure.crossing_id AND crossing.kind IN ('orders', 'refunds')
      AND (figure.side IN ('source', 'reconciling') OR figure.role IN
           ('invoice', 'sales order', 'cash sale', 'credit note', 'payment', 'refund payment'));
    ALTER TABLE carriage_figure ENABLE TRIGGER carriage_figure_kept
"""
_DAYS = """
    INSERT INTO carriage_daytotal (workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role,
        account, count, net, tax, gross, merged)
    SELECT workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role, account,
        sum(count), sum(net), sum(tax), sum(gross), true
    FROM carriage_figure WHERE section <> '' GROUP BY 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11
    HAVING sum(count) <> 0 OR sum(net) <> 0 OR sum(tax) <> 0 OR sum(gross) <> 0
"""
_CHUNK = 2_000


def keep_differences(apps: Any, schema_editor: Any) -> None:
    """What stands between the sides of every crossing that there is, and the money that never came as money."""
    figure, difference = apps.get_model("carriage", "Figure"), apps.get_model("carriage", "Difference")
    for crossings in _in_chunks(apps.get_model("carriage", "Crossing")):
        said: dict[int, dict[Key, Amounts]] = defaultdict(dict)
        rows = (
            figure.objects.filter(crossing__in=crossings).exclude(section="").values_list("crossing_id", *Key._fields)
        )
        for pk, *rest in rows.annotate(*(models.Sum(name) for name in Amounts._fields)).order_by():
            said[pk][Key(*rest[: len(Key._fields)])] = Amounts(*rest[len(Key._fields) :])
        named, between = [], []
        for pk, figures in said.items():
            crossing = crossings[pk]
            owned = {"workspace_id": crossing.workspace_id, "bridge_id": crossing.bridge_id, "crossing_id": pk}
            kept = (crossing.decision or {}).get("kind") == "keep posted"
            money = not_as_money(figures) if crossing.state in ("carried", "differs") and not kept else {}
            named += [figure(**owned, **key._asdict(), **amounts._asdict())
                      for key, amounts in money.items() if any(amounts)]  # fmt: skip
            between += [difference(**owned, between=gap.between, date=gap.date, **_meeting(gap),
                                   **gap.amounts._asdict())
                        for gap in gaps(figures | money) if gap.meeting.grain != "account"]  # fmt: skip
        figure.objects.bulk_create(named)
        difference.objects.bulk_create(between)


def _meeting(gap: Gap) -> dict[str, str]:
    # By account it is told since 0036.
    return {name: value for name, value in gap.meeting._asdict().items() if name != "account"}


def _in_chunks(crossings: Any) -> Iterator[dict[int, Any]]:
    last = 0
    while True:
        rows = crossings.objects.filter(pk__gt=last, kind__in=("orders", "refunds")).order_by("pk")
        found = {one.pk: one for one in rows.only("pk", "workspace_id", "bridge_id", "state", "decision")[:_CHUNK]}
        if not found:
            return
        yield found
        last = max(found)


class Migration(migrations.Migration):
    """The section of each figure, the totals of days, and what stands between the sides of each crossing."""

    dependencies = [("carriage", "0032_tie_out_by_document")]

    operations = [
        migrations.RunSQL(_SECTIONS, migrations.RunSQL.noop),
        migrations.RunPython(keep_differences, migrations.RunPython.noop),
        migrations.RunSQL(_DAYS, migrations.RunSQL.noop),
    ]
