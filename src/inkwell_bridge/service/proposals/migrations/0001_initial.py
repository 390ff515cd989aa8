"""Proposals, and the examples that each was learnt from."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace

_PROPOSAL, _EXAMPLE = "proposals_proposal", "proposals_exampleorder"


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("bridges", "0009_rulebook_note"),
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Proposal",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
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
                ("trouble", models.TextField(default="")),
                ("first", models.DateField()),
                ("last", models.DateField()),
                ("least", models.PositiveSmallIntegerField(default=2)),
                ("unread", models.PositiveIntegerField(default=0)),
                ("result", models.JSONField(default=dict)),
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
                        on_delete=django.db.models.deletion.CASCADE, related_name="proposals", to="bridges.bridge"
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
            name="ExampleOrder",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.CharField(max_length=120)),
                ("order", models.JSONField()),
                ("records", models.JSONField(default=list)),
                ("contact", models.CharField(blank=True, default="", max_length=200)),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
                (
                    "proposal",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="examples", to="proposals.proposal"
                    ),
                ),
            ],
        ),
        migrations.AddIndex(
            model_name="proposal",
            index=models.Index(fields=["workspace", "bridge", "-id"], name="proposal_newest"),
        ),
        migrations.AddConstraint(
            model_name="proposal",
            constraint=models.UniqueConstraint(
                condition=models.Q(("state__in", ("waiting", "running"))),
                fields=("bridge",),
                name="proposal_one_at_a_time",
            ),
        ),
        migrations.AddIndex(
            model_name="exampleorder",
            index=models.Index(fields=["workspace", "proposal", "id"], name="example_of_proposal"),
        ),
        anchored(_PROPOSAL),
        same_workspace(_PROPOSAL, "bridge_id", "bridges_bridge"),
        same_workspace(_EXAMPLE, "proposal_id", _PROPOSAL),
    ]
