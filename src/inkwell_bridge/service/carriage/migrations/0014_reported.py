"""The history tells what was reported back to the sales side."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("carriage", "0013_lists")]

    operations = [
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
                    ("requeued", "Queued anew by upkeep"),
                ],
                max_length=10,
            ),
        ),
    ]
