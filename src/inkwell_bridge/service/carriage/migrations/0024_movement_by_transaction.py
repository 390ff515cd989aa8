"""Money is looked for by its transaction alone, whichever connection told of it."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    """One index."""

    dependencies = [("carriage", "0023_open_balances")]

    operations = [
        migrations.AddIndex(
            model_name="moneymovement",
            index=models.Index(fields=["workspace", "transaction"], name="movement_by_transaction"),
        ),
    ]
