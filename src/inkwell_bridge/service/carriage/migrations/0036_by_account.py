"""What stands between the sides of each account, worked out for everything that was carried before."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from django.db import migrations, models

from inkwell_bridge.core.proof import Amounts, Key, gaps

# A named reason had the role of its document where it has the account of its line now. Only of the penny's line an
# account counts, and that is asked of what was read back of its documents. Figures are kept as they were written, so
# their guard is lifted for this alone.
_ACCOUNTS = """
    ALTER TABLE carriage_figure DISABLE TRIGGER carriage_figure_kept;
    UPDATE carriage_figure AS figure SET account = COALESCE((
        SELECT min(line ->> 'account')
        FROM carriage_documentsource AS source
        JOIN carriage_document AS document ON document.id = source.document_id
        CROSS JOIN LATERAL jsonb_array_elements(document.record -> 'document' -> 'lines') AS line
        WHERE source.crossing_id = figure.crossing_id AND line ->> 'kind' = 'rounding'
          AND line ->> 'tax_code' = figure.tax_code
    ), '')
    WHERE side = 'reconciling' AND role = 'penny';
    UPDATE carriage_figure SET account = ''
    WHERE side = 'reconciling' AND role <> 'penny' AND account <> '';
    ALTER TABLE carriage_figure ENABLE TRIGGER carriage_figure_kept;
    DELETE FROM carriage_daytotal WHERE side = 'reconciling';
    INSERT INTO carriage_daytotal (workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role,
        account, count, net, tax, gross, merged)
    SELECT workspace_id, bridge_id, grain, section, date, currency, tax_code, tender, side, role, account,
        sum(count), sum(net), sum(tax), sum(gross), true
    FROM carriage_figure WHERE section <> '' AND side = 'reconciling' GROUP BY 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11
    HAVING sum(count) <> 0 OR sum(net) <> 0 OR sum(tax) <> 0 OR sum(gross) <> 0
"""
# Most crossings have the same on both sides of every account, and need no look.
_APART = """
    SELECT DISTINCT crossing_id FROM (
        SELECT crossing_id FROM carriage_figure
        WHERE section <> '' AND grain = 'line' AND (side IN ('coded', 'books') OR role = 'penny')
        GROUP BY crossing_id, section, currency, account, date
        HAVING sum(CASE WHEN side = 'coded' THEN net ELSE -net END) <> 0
    ) AS apart ORDER BY 1
"""
_CHUNK = 2_000


def keep_differences(apps: Any, schema_editor: Any) -> None:
    """What stands between the sides of accounts, of every crossing of which anything does."""
    figure, difference = apps.get_model("carriage", "Figure"), apps.get_model("carriage", "Difference")
    with schema_editor.connection.cursor() as cursor:
        cursor.execute(_APART)
        keys = [key for (key,) in cursor.fetchall()]
    for start in range(0, len(keys), _CHUNK):
        said: dict[tuple[int, int, int], dict[Key, Amounts]] = defaultdict(dict)
        rows = figure.objects.filter(crossing__in=keys[start : start + _CHUNK], grain="line").exclude(section="")
        owned = ("workspace_id", "bridge_id", "crossing_id")
        for *of, rest in (
            (*row[:3], row[3:])
            for row in rows.values_list(*owned, *Key._fields)
            .annotate(*(models.Sum(name) for name in Amounts._fields)).order_by()
        ):  # fmt: skip
            said[of[0], of[1], of[2]][Key(*rest[: len(Key._fields)])] = Amounts(*rest[len(Key._fields) :])
        difference.objects.bulk_create([
            difference(**dict(zip(owned, of, strict=True)), between=gap.between, date=gap.date,
                       **gap.meeting._asdict(), **gap.amounts._asdict())
            for of, figures in said.items() for gap in gaps(figures) if gap.meeting.grain == "account"
        ])  # fmt: skip


_GRAINS = [("document", "document"), ("line", "line"), ("account", "account")]


class Migration(migrations.Migration):
    """A column of differences, and those that are of an account."""

    dependencies = [("carriage", "0035_put_right")]

    operations = [
        migrations.AddField("difference", "account", models.CharField(default="", max_length=120)),
        *(
            migrations.AlterField(model, "grain", models.CharField(choices=_GRAINS, max_length=10))
            for model in ("daytotal", "difference", "figure")
        ),
        migrations.RunSQL(_ACCOUNTS, migrations.RunSQL.noop),
        migrations.RunPython(keep_differences, migrations.RunPython.noop),
    ]
