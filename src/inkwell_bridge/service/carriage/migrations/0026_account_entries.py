"""What stands on an account of money, and payouts in suspense, are found by an index; a charge may be paid out in parts."""

from __future__ import annotations

from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import migrations, models
from django.db.models import F, Q
from django.db.models.fields.json import KeyTextTransform, KeyTransform


class Migration(migrations.Migration):
    """Three indexes, and two constraints in place of one."""

    dependencies = [("carriage", "0025_kind_newest")]

    operations = [
        migrations.AddIndex(
            model_name="document",
            index=models.Index(
                F("connection"),
                KeyTextTransform("account", "record__document"),
                condition=Q(role__in=("payment", "refund payment")),
                name="document_money_account",
            ),
        ),
        migrations.AddIndex(
            model_name="document",
            index=GinIndex(
                OpClass(KeyTransform("lines", "record__document"), "jsonb_path_ops"),
                condition=Q(role="journal"),
                name="document_journal_lines",
            ),
        ),
        migrations.AddIndex(
            model_name="crossing",
            index=models.Index(
                fields=["kind"], condition=Q(findings__contains=[{"id": "PAYOUT-N001"}]), name="crossing_in_suspense"
            ),
        ),
        migrations.RemoveConstraint(model_name="moneymovement", name="movement_transaction"),
        migrations.AddConstraint(
            model_name="moneymovement",
            constraint=models.UniqueConstraint(
                fields=("workspace", "connection", "account", "transaction", "kind"),
                condition=~Q(kind="paid out"),
                name="movement_transaction",
            ),
        ),
        migrations.AddConstraint(
            model_name="moneymovement",
            constraint=models.UniqueConstraint(
                fields=("crossing", "transaction"), condition=Q(kind="paid out"), name="movement_paid_out"
            ),
        ),
    ]
