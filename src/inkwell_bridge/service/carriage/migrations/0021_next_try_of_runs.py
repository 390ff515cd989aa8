"""When a run that waits for an end tries again."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    """One column, empty where nothing waits."""

    dependencies = [("carriage", "0020_call_times")]

    operations = [
        migrations.AddField(model_name="run", name="next_try_at", field=models.DateTimeField(null=True)),
    ]
