"""The tie-out by document: the section of each figure, totals by day, and what stands between the sides of a crossing."""

from __future__ import annotations

import django.db.models.deletion
from django.db import migrations, models

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    """Two tables, a column of documents and one of figures."""

    dependencies = [
        ("bridges", "0010_lane_timetables"),
        ("carriage", "0031_told_payment_index"),
        ("people", "0006_publish_rules"),
    ]

    operations = [
        migrations.AddField(
            model_name="document",
            name="copies",
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name="figure",
            name="section",
            field=models.CharField(
                blank=True,
                choices=[("sales", "sales"), ("refunds", "refunds"), ("money", "money"), ("", "")],
                default="",
                max_length=10,
            ),
        ),
        migrations.AlterField(
            model_name="figure",
            name="grain",
            field=models.CharField(choices=[("document", "document"), ("line", "line")], max_length=10),
        ),
        migrations.AlterField(
            model_name="figure",
            name="side",
            field=models.CharField(
                choices=[("source", "source"), ("coded", "coded"), ("books", "books"), ("reconciling", "reconciling")],
                max_length=12,
            ),
        ),
        migrations.CreateModel(
            name="DayTotal",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("grain", models.CharField(choices=[("document", "document"), ("line", "line")], max_length=10)),
                (
                    "section",
                    models.CharField(
                        blank=True,
                        choices=[("sales", "sales"), ("refunds", "refunds"), ("money", "money"), ("", "")],
                        default="",
                        max_length=10,
                    ),
                ),
                ("date", models.DateField()),
                ("currency", models.CharField(max_length=3)),
                ("tax_code", models.CharField(default="", max_length=120)),
                ("tender", models.CharField(default="", max_length=30)),
                ("count", models.IntegerField(default=0)),
                ("net", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("tax", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("gross", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                (
                    "side",
                    models.CharField(
                        choices=[
                            ("source", "source"),
                            ("coded", "coded"),
                            ("books", "books"),
                            ("reconciling", "reconciling"),
                        ],
                        max_length=12,
                    ),
                ),
                ("role", models.CharField(max_length=30)),
                ("account", models.CharField(default="", max_length=120)),
                ("merged", models.BooleanField(default=False)),
                (
                    "bridge",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bridges.bridge"
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
                    models.Index(fields=["workspace", "date"], name="day_total_period"),
                    models.Index(
                        condition=models.Q(("merged", False)), fields=["workspace", "date"], name="day_total_to_merge"
                    ),
                ],
            },
        ),
        migrations.CreateModel(
            name="Difference",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("grain", models.CharField(choices=[("document", "document"), ("line", "line")], max_length=10)),
                (
                    "section",
                    models.CharField(
                        blank=True,
                        choices=[("sales", "sales"), ("refunds", "refunds"), ("money", "money"), ("", "")],
                        default="",
                        max_length=10,
                    ),
                ),
                ("date", models.DateField()),
                ("currency", models.CharField(max_length=3)),
                ("tax_code", models.CharField(default="", max_length=120)),
                ("tender", models.CharField(default="", max_length=30)),
                ("count", models.IntegerField(default=0)),
                ("net", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("tax", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("gross", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("between", models.CharField(choices=[("open", "open"), ("cut-off", "cut-off")], max_length=10)),
                (
                    "bridge",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bridges.bridge"
                    ),
                ),
                (
                    "crossing",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="differences", to="carriage.crossing"
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
                "indexes": [models.Index(fields=["workspace", "date"], name="difference_period")],
            },
        ),
        same_workspace("carriage_difference", "crossing_id", "carriage_crossing"),
        same_workspace("carriage_difference", "bridge_id", "bridges_bridge"),
        same_workspace("carriage_daytotal", "bridge_id", "bridges_bridge"),
    ]
