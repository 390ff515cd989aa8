"""All that tells of one buyer can be erased."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("carriage", "0014_reported"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]

    operations = [
        migrations.CreateModel(
            name="Erasure",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64)),
                ("asked_at", models.DateTimeField()),
                ("ended_at", models.DateTimeField(null=True)),
                ("looked_at", models.PositiveIntegerField(default=0)),
                ("snapshots", models.PositiveIntegerField(default=0)),
                ("names", models.PositiveIntegerField(default=0)),
                ("kept", models.JSONField(default=list)),
                (
                    "asked_by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
            options={"indexes": [models.Index(fields=["workspace", "-id"], name="erasure_newest")]},
        ),
        migrations.AlterField(
            model_name="run",
            name="state",
            field=models.CharField(
                choices=[("reading", "Reading"), ("carrying", "Carrying"), ("ended", "Ended"), ("failed", "Failed"),
                         ("stopped", "Stopped")],
                default="reading",
                max_length=10,
            ),
        ),
        migrations.RunSQL(
            "UPDATE carriage_run SET state = 'stopped' WHERE state = 'abandoned'",
            "UPDATE carriage_run SET state = 'abandoned' WHERE state = 'stopped'",
        ),
    ]  # fmt: skip
