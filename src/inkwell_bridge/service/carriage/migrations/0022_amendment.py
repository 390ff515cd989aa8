"""Which change of its source a document makes good; and the words for that."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    """One column with a default, which PostgreSQL adds without touching a row."""

    dependencies = [
        ("carriage", "0021_next_try_of_runs"),
    ]

    operations = [
        migrations.AddField(
            model_name="document",
            name="amendment",
            field=models.PositiveSmallIntegerField(default=0),
        ),
        migrations.AlterField(
            model_name="crossingevent",
            name="kind",
            field=models.CharField(
                choices=[
                    ("staged", "Read at the origin"),
                    ("changed", "Changed at the origin"),
                    ("waiting", "Waits"),
                    ("posted", "Posted"),
                    ("proved", "Proved"),
                    ("carried", "Carried"),
                    ("held", "Held"),
                    ("differs", "Differs"),
                    ("left out", "Left out"),
                    ("adopted", "Adopted"),
                    ("reported", "Reported back to the sales side"),
                    ("released", "Released"),
                    ("withdrawn", "Trial taken back"),
                    ("requeued", "Queued anew by upkeep"),
                    ("decided", "Decided by a person"),
                    ("amended", "Amended"),
                ],
                max_length=10,
            ),
        ),
        migrations.AlterField(
            model_name="document",
            name="state",
            field=models.CharField(
                choices=[
                    ("waiting", "Waiting"),
                    ("drafted", "Drafted"),
                    ("posted", "Posted"),
                    ("proved", "Proved"),
                    ("held", "Held"),
                    ("differs", "Differs"),
                    ("adopted", "Adopted"),
                    ("cancelled", "Cancelled"),
                ],
                default="waiting",
                max_length=10,
            ),
        ),
    ]
