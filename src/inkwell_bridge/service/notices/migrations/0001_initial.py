"""Troubles, who is told of which, and what they were told."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("bridges", "0010_lane_timetables"),
        ("connections", "0010_paused"),
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="NoticeRule",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("channel", models.CharField(choices=[("mail", "E-mail"), ("call", "Signed call")], max_length=4)),
                ("address", models.URLField(blank=True, default="", max_length=500)),
                ("sealed", models.BinaryField(default=b"")),
                ("kinds", models.JSONField(default=list)),
                ("bridges", models.JSONField(default=list)),
                ("lanes", models.JSONField(default=list)),
                ("at_once", models.BooleanField(default=True)),
                ("digest_at", models.TimeField(null=True)),
                ("summary_at", models.TimeField(null=True)),
                ("quiet_from", models.TimeField(null=True)),
                ("quiet_until", models.TimeField(null=True)),
                ("time_zone", models.CharField(max_length=60)),
                ("on", models.BooleanField(default=True)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("next_digest_at", models.DateTimeField(null=True)),
                ("next_summary_at", models.DateTimeField(null=True)),
                ("last_sent_at", models.DateTimeField(null=True)),
                ("last_failure", models.CharField(blank=True, default="", max_length=300)),
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
                    "person",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
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
        ),
        migrations.CreateModel(
            name="Notice",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("subject", models.CharField(max_length=200)),
                ("text", models.TextField()),
                ("event", models.JSONField(default=dict)),
                (
                    "state",
                    models.CharField(
                        choices=[("waiting", "Waits to be sent"), ("sent", "Sent"), ("failed", "Given up")],
                        default="waiting",
                        max_length=8,
                    ),
                ),
                ("made_at", models.DateTimeField()),
                ("sent_at", models.DateTimeField(null=True)),
                ("tries", models.PositiveIntegerField(default=0)),
                ("failure", models.CharField(blank=True, default="", max_length=300)),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
                (
                    "rule",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="notices", to="notices.noticerule"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="NoticesRead",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField()),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL
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
            name="Trouble",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=200)),
                (
                    "kind",
                    models.CharField(
                        choices=[
                            ("held", "Held"),
                            ("differs", "Differs"),
                            ("run failed", "Run failed"),
                            ("end", "End"),
                            ("silent", "Silent"),
                        ],
                        max_length=12,
                    ),
                ),
                ("lane", models.CharField(blank=True, default="", max_length=30)),
                ("cause", models.CharField(blank=True, default="", max_length=60)),
                ("count", models.PositiveIntegerField(default=0)),
                ("amounts", models.JSONField(default=dict)),
                ("oldest", models.CharField(blank=True, default="", max_length=120)),
                ("text", models.TextField(blank=True, default="")),
                ("tries", models.PositiveIntegerField(default=0)),
                ("next_try_at", models.DateTimeField(null=True)),
                ("opened_at", models.DateTimeField()),
                ("changed_at", models.DateTimeField()),
                ("ended_at", models.DateTimeField(null=True)),
                (
                    "bridge",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bridges.bridge"
                    ),
                ),
                (
                    "connection",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
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
            name="LastNotice",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField()),
                ("count", models.PositiveIntegerField()),
                ("over", models.BooleanField(default=False)),
                (
                    "rule",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="last_notices",
                        to="notices.noticerule",
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
                (
                    "trouble",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="last_notices", to="notices.trouble"
                    ),
                ),
            ],
        ),
        migrations.AddIndex(
            model_name="noticerule",
            index=models.Index(fields=["workspace", "id"], name="notice_rule_listed"),
        ),
        migrations.AddIndex(
            model_name="notice",
            index=models.Index(fields=["workspace", "-id"], name="notice_newest"),
        ),
        migrations.AddConstraint(
            model_name="noticesread",
            constraint=models.UniqueConstraint(fields=("workspace", "person"), name="notices_read_once"),
        ),
        migrations.AddIndex(
            model_name="trouble",
            index=models.Index(
                models.F("workspace"),
                models.OrderBy(models.F("ended_at"), descending=True, nulls_first=True),
                models.OrderBy(models.F("id"), descending=True),
                name="trouble_newest",
            ),
        ),
        migrations.AddIndex(
            model_name="trouble",
            index=models.Index(fields=["ended_at"], name="trouble_ended"),
        ),
        migrations.AddConstraint(
            model_name="trouble",
            constraint=models.UniqueConstraint(
                condition=models.Q(("ended_at", None)), fields=("workspace", "key"), name="trouble_open_once"
            ),
        ),
        migrations.AddConstraint(
            model_name="lastnotice",
            constraint=models.UniqueConstraint(fields=("rule", "trouble"), name="last_notice_once"),
        ),
        anchored("notices_trouble"),
        anchored("notices_noticerule"),
        same_workspace("notices_trouble", "bridge_id", "bridges_bridge"),
        same_workspace("notices_trouble", "connection_id", "connections_connection"),
        same_workspace("notices_lastnotice", "rule_id", "notices_noticerule"),
        same_workspace("notices_lastnotice", "trouble_id", "notices_trouble"),
        same_workspace("notices_notice", "rule_id", "notices_noticerule"),
    ]
