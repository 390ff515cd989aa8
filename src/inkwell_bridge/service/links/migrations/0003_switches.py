"""What ends when a connection is given to another company is written down, so that it can be brought back."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace

_SWITCH = "links_switch"


class Migration(migrations.Migration):
    dependencies = [
        ("links", "0002_guards"),
        ("connections", "0007_removed"),
        ("people", "0002_guards"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Switch",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField()),
                ("before", models.CharField(max_length=200)),
                ("now", models.CharField(max_length=200)),
                ("changes", models.JSONField(default=list)),
                ("lanes", models.JSONField(default=list)),
                ("undone_at", models.DateTimeField(null=True)),
                (
                    "company_before",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to="people.company",
                    ),
                ),
                (
                    "connection",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="connections.connection"
                    ),
                ),
                (
                    "person",
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
            options={"indexes": [models.Index(fields=["workspace", "connection", "-id"], name="switch_newest")]},
        ),
        anchored(_SWITCH),
        same_workspace(_SWITCH, "connection_id", "connections_connection"),
        same_workspace(_SWITCH, "company_before_id", "people_company"),
    ]
