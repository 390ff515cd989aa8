"""The table of daily rates."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="DailyRate",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("currency", models.CharField(max_length=3)),
                ("day", models.DateField()),
                ("rate", models.DecimalField(decimal_places=12, max_digits=24)),
                ("source", models.CharField(blank=True, default="", max_length=100)),
                ("entered_at", models.DateTimeField(auto_now=True)),
                (
                    "company",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.company"
                    ),
                ),
                (
                    "entered_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
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
                "indexes": [
                    models.Index(fields=["workspace", "company", "-day", "currency"], name="daily_rate_newest")
                ],
                "constraints": [
                    models.UniqueConstraint(fields=("workspace", "company", "currency", "day"), name="daily_rate_once")
                ],
            },
        ),
        anchored("exchange_rates_dailyrate"),
        same_workspace("exchange_rates_dailyrate", "company_id", "people_company"),
    ]
