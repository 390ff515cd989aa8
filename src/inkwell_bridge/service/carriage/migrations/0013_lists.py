"""An index for the list of documents with one cause."""

import datetime

import django.db.models.functions.comparison
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("bridges", "0007_lane_kinds"),
        ("carriage", "0012_lots"),
        ("connections", "0006_breaker"),
        ("people", "0002_guards"),
    ]

    operations = [
        migrations.AddIndex(
            model_name="crossing",
            index=models.Index(
                models.F("workspace"),
                models.F("cause"),
                models.OrderBy(
                    django.db.models.functions.comparison.Coalesce(
                        models.F("moment"), models.Value(datetime.datetime(1900, 1, 1, 0, 0, tzinfo=datetime.UTC))
                    ),
                    descending=True,
                ),
                models.OrderBy(models.F("id"), descending=True),
                condition=models.Q(("cause", ""), _negated=True),
                name="crossing_cause_newest",
            ),
        ),
    ]
