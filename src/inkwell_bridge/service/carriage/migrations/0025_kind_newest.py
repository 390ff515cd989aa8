"""The list of one kind of document, the newest first, is read by an index."""

from __future__ import annotations

from datetime import UTC, datetime

from django.db import migrations, models
from django.db.models import F, Value
from django.db.models.functions import Coalesce

# As it stands in ORDER BY: what has no moment comes last.
_MOMENT = Coalesce(F("moment"), Value(datetime(1900, 1, 1, tzinfo=UTC)))


class Migration(migrations.Migration):
    """One index."""

    dependencies = [("carriage", "0024_movement_by_transaction")]

    operations = [
        migrations.AddIndex(
            model_name="crossing",
            index=models.Index(F("workspace"), F("kind"), _MOMENT.desc(), F("id").desc(), name="crossing_kind_newest"),
        ),
    ]
