from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bridges", "0002_guards")]
    operations = [
        migrations.AlterField(
            model_name="lane",
            name="kind",
            field=models.CharField(choices=[("orders", "Orders"), ("customers", "Customers")], max_length=30),
        ),
        migrations.AddField("lane", "looked_back_at", models.DateTimeField(null=True)),
        # A bridge has a lane for each kind, off until somebody switches it on.
        migrations.RunSQL(
            'INSERT INTO bridges_lane (workspace_id, bridge_id, kind, "on") '
            "SELECT workspace_id, id, 'customers', false FROM bridges_bridge "
            "ON CONFLICT (bridge_id, kind) DO NOTHING",
            migrations.RunSQL.noop,
        ),
    ]
