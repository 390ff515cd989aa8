"""Proofs of accounts of money."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("connections", "0010_paused"),
        ("people", "0006_publish_rules"),
        ("carriage", "0026_account_entries"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="ClearingProof",
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
                ("account", models.CharField(max_length=120)),
                ("first", models.DateField()),
                ("last", models.DateField()),
                ("proves", models.BooleanField(null=True)),
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
                    "books",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="clearing_proofs",
                        to="connections.connection",
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
            name="ReadEntry",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("family", models.CharField(max_length=120)),
                ("books_id", models.CharField(max_length=120)),
                ("number", models.CharField(max_length=120)),
                ("date", models.DateField()),
                ("reference", models.CharField(max_length=250)),
                ("text", models.CharField(max_length=200)),
                ("amount", models.DecimalField(decimal_places=4, max_digits=20)),
                (
                    "proof",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="entries", to="clearing.clearingproof"
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
        migrations.AddIndex(
            model_name="clearingproof",
            index=models.Index(fields=["workspace", "-id"], name="clearing_proof_newest"),
        ),
        migrations.AddIndex(
            model_name="clearingproof",
            index=models.Index(fields=["books", "account", "-id"], name="clearing_proof_of_account"),
        ),
        migrations.AddConstraint(
            model_name="clearingproof",
            constraint=models.UniqueConstraint(
                condition=models.Q(("state__in", ("waiting", "running"))),
                fields=("books", "account"),
                name="clearing_proof_one_at_a_time",
            ),
        ),
        migrations.AddIndex(
            model_name="readentry",
            index=models.Index(fields=["proof", "reference"], name="read_entry_reference"),
        ),
        anchored("clearing_clearingproof"),
        same_workspace("clearing_clearingproof", "books_id", "connections_connection"),
        same_workspace("clearing_readentry", "proof_id", "clearing_clearingproof"),
    ]
