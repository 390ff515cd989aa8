"""One order carried on trial, as drafts, and taken back."""

import django.db.models.deletion
from django.db import migrations, models

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    dependencies = [
        ("bridges", "0009_rulebook_note"),
        ("carriage", "0015_erasures"),
    ]

    operations = [
        migrations.AddField(
            model_name="crossing",
            name="trial",
            field=models.CharField(
                blank=True,
                choices=[("", "None"), ("sent", "Sent"), ("taken back", "Taken back")],
                default="",
                max_length=10,
            ),
        ),
        migrations.AddField(
            model_name="crossing",
            name="tried_under",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="bridges.rulebookversion"
            ),
        ),
        migrations.AddField(
            model_name="run",
            name="rulebook",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="bridges.rulebookversion"
            ),
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
                ],
                max_length=10,
            ),
        ),
        migrations.AlterField(
            model_name="run",
            name="purpose",
            field=models.CharField(
                choices=[("carry", "Carry"), ("adopt", "Adopt"), ("trial", "Trial")], default="carry", max_length=10
            ),
        ),
        same_workspace("carriage_crossing", "tried_under_id", "bridges_rulebookversion"),
        same_workspace("carriage_run", "rulebook_id", "bridges_rulebookversion"),
    ]
