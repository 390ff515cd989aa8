"""Checks are asked for, and done by workers."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("connections", "0008_last_contact")]

    operations = [
        migrations.AddField("connection", "checks_asked", models.PositiveIntegerField(default=0)),
        migrations.AddField("connection", "checks_done", models.PositiveIntegerField(default=0)),
    ]
