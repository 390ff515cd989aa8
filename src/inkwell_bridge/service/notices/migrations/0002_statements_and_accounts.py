"""Refused statements and accounts that do not prove are troubles."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    """Further kinds."""

    dependencies = [("notices", "0001_initial"), ("bank", "0001_initial"), ("clearing", "0001_initial")]

    operations = [
        migrations.AlterField(
            model_name="trouble",
            name="kind",
            field=models.CharField(
                max_length=12,
                choices=[
                    ("held", "Held"),
                    ("differs", "Differs"),
                    ("run failed", "Run failed"),
                    ("end", "End"),
                    ("silent", "Silent"),
                    ("statement", "Statement"),
                    ("account", "Account"),
                ],
            ),
        ),
    ]
