"""Lines are matched to money of orders, refunds and invoices besides payouts."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bank", "0002_line_words"), ("carriage", "0029_told_payments")]

    operations = [
        migrations.RemoveConstraint("linematch", "line_match_once"),
        migrations.RemoveIndex("linematch", "line_match_of_payout"),
        migrations.RenameField("linematch", "payout", "crossing"),
        migrations.AddConstraint(
            "linematch", models.UniqueConstraint(fields=["line", "crossing"], name="line_match_once")
        ),
        migrations.AddIndex("linematch", models.Index(fields=["crossing"], name="line_match_of_crossing")),
    ]
