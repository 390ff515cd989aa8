"""Rehearsals, and the documents that each would change."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace

_REHEARSAL, _CHANGED = "rehearsals_rehearsal", "rehearsals_changedplan"


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("bridges", "0008_removed"),
        ("carriage", "0015_erasures"),
        ("people", "0005_account"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Rehearsal",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("first", models.DateField()),
                ("last", models.DateField()),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "Waiting"),
                            ("running", "Running"),
                            ("ended", "Ended"),
                            ("cancelled", "Cancelled"),
                            ("failed", "Failed"),
                        ],
                        default="waiting",
                        max_length=10,
                    ),
                ),
                ("asked_at", models.DateTimeField()),
                ("ended_at", models.DateTimeField(null=True)),
                ("total", models.PositiveIntegerField(null=True)),
                ("done", models.PositiveIntegerField(default=0)),
                ("changed", models.PositiveIntegerField(default=0)),
                ("trouble", models.TextField(default="")),
                ("result", models.JSONField(default=dict)),
                ("coverage", models.JSONField(default=list)),
                (
                    "asked_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "bridge",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="rehearsals", to="bridges.bridge"
                    ),
                ),
                (
                    "rulebook",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bridges.rulebookversion"
                    ),
                ),
                (
                    "since",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
                        to="bridges.rulebookversion",
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="ChangedPlan",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("before", models.CharField(max_length=10)),
                ("after", models.CharField(max_length=10)),
                ("why", models.TextField(default="")),
                ("changes", models.JSONField(default=list)),
                (
                    "crossing",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="carriage.crossing"
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
                (
                    "rehearsal",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="changed_plans",
                        to="rehearsals.rehearsal",
                    ),
                ),
            ],
        ),
        migrations.AddIndex(
            model_name="rehearsal",
            index=models.Index(fields=["workspace", "bridge", "-id"], name="rehearsal_newest"),
        ),
        migrations.AddConstraint(
            model_name="rehearsal",
            constraint=models.UniqueConstraint(
                condition=models.Q(("state__in", ("waiting", "running"))),
                fields=("bridge",),
                name="rehearsal_one_at_a_time",
            ),
        ),
        migrations.AddIndex(
            model_name="changedplan",
            index=models.Index(fields=["workspace", "rehearsal", "id"], name="changed_plan_of"),
        ),
        anchored(_REHEARSAL),
        same_workspace(_REHEARSAL, "bridge_id", "bridges_bridge"),
        same_workspace(_REHEARSAL, "rulebook_id", "bridges_rulebookversion"),
        same_workspace(_REHEARSAL, "since_id", "bridges_rulebookversion"),
        same_workspace(_CHANGED, "rehearsal_id", _REHEARSAL),
        same_workspace(_CHANGED, "crossing_id", "carriage_crossing"),
    ]
