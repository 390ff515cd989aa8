"""What a person decides for one document that is held."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0017_chosen_runs"),
    ]

    operations = [
        migrations.AddField(
            model_name="crossing",
            name="decision",
            field=models.JSONField(null=True),
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
                ],
                max_length=10,
            ),
        ),
    ]
