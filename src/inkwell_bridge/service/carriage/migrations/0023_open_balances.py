"""What is left open of orders, worked out once for what was carried before."""

from __future__ import annotations

import django.db.models.deletion
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace

_TABLE = "carriage_openbalance"
# Sales less money, by the books' own figures: those of an order and of its refunds, which name it as their parent.
_FROM_FIGURES = """
INSERT INTO carriage_openbalance (workspace_id, bridge_id, crossing_id, amount, currency, since)
SELECT orders.workspace_id, orders.bridge_id, orders.id,
       sum(CASE WHEN figure.role IN ('payment', 'refund payment') THEN -figure.gross ELSE figure.gross END) AS amount,
       min(figure.currency), max(figure.date)
FROM carriage_crossing AS orders
JOIN carriage_crossing AS one ON one.workspace_id = orders.workspace_id AND one.bridge_id = orders.bridge_id
    AND (one.id = orders.id OR (one.kind = 'refunds' AND one.parent_source_id = orders.source_id))
JOIN carriage_figure AS figure ON figure.crossing_id = one.id AND figure.side = 'books' AND figure.grain = 'document'
    AND figure.role IN ('invoice', 'cash sale', 'credit note', 'payment', 'refund payment')
WHERE orders.kind = 'orders' AND orders.state = 'carried' AND orders.trial = ''
    AND EXISTS (SELECT 1 FROM carriage_documentsource AS share JOIN carriage_document AS document
                ON document.id = share.document_id
                WHERE share.crossing_id = orders.id AND document.role = 'payment')
GROUP BY orders.workspace_id, orders.bridge_id, orders.id
HAVING sum(CASE WHEN figure.role IN ('payment', 'refund payment') THEN -figure.gross ELSE figure.gross END) <> 0
"""


class Migration(migrations.Migration):
    """One new table; what is open of orders that are paid here is filled in, one grouped sum."""

    dependencies = [
        ("bridges", "0010_lane_timetables"),
        ("carriage", "0022_amendment"),
        ("people", "0006_publish_rules"),
    ]

    operations = [
        migrations.CreateModel(
            name="OpenBalance",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("amount", models.DecimalField(decimal_places=4, max_digits=20)),
                ("currency", models.CharField(max_length=3)),
                ("since", models.DateField()),
                (
                    "bridge",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bridges.bridge"
                    ),
                ),
                (
                    "crossing",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="open_balance",
                        to="carriage.crossing",
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
            options={"indexes": [models.Index(fields=["bridge", "since"], name="open_balance_oldest")]},
        ),
        anchored(_TABLE),
        same_workspace(_TABLE, "bridge_id", "bridges_bridge"),
        same_workspace(_TABLE, "crossing_id", "carriage_crossing"),
        migrations.RunSQL(_FROM_FIGURES, migrations.RunSQL.noop),
    ]
