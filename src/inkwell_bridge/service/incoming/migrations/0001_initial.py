"""Where ends call, what they sign with, and what they said."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("connections", "0010_paused"),
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="CallAddress",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=43, unique=True)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("expected_within_minutes", models.PositiveIntegerField(default=0)),
                ("last_call_at", models.DateTimeField(null=True)),
                ("refused", models.PositiveIntegerField(default=0)),
                ("last_refused_at", models.DateTimeField(null=True)),
                ("last_refused_why", models.CharField(blank=True, default="", max_length=300)),
                (
                    "connection",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="call_address",
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
            options={
                "abstract": False,
            },
        ),
        migrations.CreateModel(
            name="CallSecret",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("sealed", models.BinaryField()),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("ends_at", models.DateTimeField(null=True)),
                (
                    "connection",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="call_secrets",
                        to="connections.connection",
                    ),
                ),
                (
                    "made_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
            options={
                "indexes": [models.Index(fields=["connection", "-id"], name="call_secret_newest")],
            },
        ),
        migrations.CreateModel(
            name="IncomingCall",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("call_id", models.CharField(max_length=200)),
                ("kind", models.CharField(max_length=30)),
                ("number", models.CharField(max_length=200)),
                ("happened_at", models.DateTimeField()),
                ("received_at", models.DateTimeField()),
                ("looked_at", models.DateTimeField(null=True)),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "Waits to be looked at"),
                            ("done", "The document was looked at"),
                            ("not carried", "No lane is on for it"),
                            ("not found", "The end has no such document"),
                        ],
                        default="waiting",
                        max_length=12,
                    ),
                ),
                (
                    "connection",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="incoming_calls",
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
            options={
                "indexes": [
                    models.Index(fields=["workspace", "-id"], name="incoming_newest"),
                    models.Index(fields=["workspace", "connection", "-id"], name="incoming_of_connection"),
                    models.Index(
                        condition=models.Q(("state", "waiting")), fields=["connection", "id"], name="incoming_waiting"
                    ),
                ],
                "constraints": [models.UniqueConstraint(fields=("connection", "call_id"), name="incoming_call_once")],
            },
        ),
        same_workspace("incoming_calladdress", "connection_id", "connections_connection"),
        same_workspace("incoming_callsecret", "connection_id", "connections_connection"),
        same_workspace("incoming_incomingcall", "connection_id", "connections_connection"),
    ]
