"""A lane for refunds; every bridge has it, switched off."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bridges", "0004_start_date")]

    operations = [
        migrations.AlterField(
            model_name="lane",
            name="kind",
            field=models.CharField(
                choices=[("orders", "Orders"), ("customers", "Customers"), ("refunds", "Refunds")], max_length=30
            ),
        ),
        migrations.RunSQL(
            'INSERT INTO bridges_lane (workspace_id, bridge_id, kind, "on") '
            "SELECT workspace_id, id, 'refunds', false FROM bridges_bridge ON CONFLICT DO NOTHING",
            migrations.RunSQL.noop,
        ),
    ]
