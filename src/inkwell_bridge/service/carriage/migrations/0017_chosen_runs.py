"""Runs of some lanes, of some days, and of what came to something in an earlier run."""

import django.db.models.deletion
from django.db import migrations, models

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0016_trials"),
    ]

    operations = [
        migrations.AddField(
            model_name="run",
            name="again",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="carriage.run"
            ),
        ),
        migrations.AddField(
            model_name="run",
            name="first_day",
            field=models.DateField(null=True),
        ),
        migrations.AddField(
            model_name="run",
            name="lanes",
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name="run",
            name="last_day",
            field=models.DateField(null=True),
        ),
        migrations.AddField(
            model_name="run",
            name="outcomes",
            field=models.JSONField(default=list),
        ),
        same_workspace("carriage_run", "again_id", "carriage_run"),
    ]
