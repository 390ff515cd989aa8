"""Timetables of lanes, with hours, days of the week, seasons and pauses; bridges that people pause."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def into_a_day(apps, schema_editor):
    """Times are counted anew each day now: minutes that do not go evenly into one become the next fewer that do."""
    for timetable in apps.get_model("bridges", "Timetable").objects.filter(rule__startswith="FREQ=MINUTELY;INTERVAL="):
        minutes = int(timetable.rule.rpartition("=")[2])
        fitting = next(fewer for fewer in range(minutes, 0, -1) if 24 * 60 % fewer == 0)
        if fitting != minutes:
            timetable.rule = f"FREQ=MINUTELY;INTERVAL={fitting}"
            timetable.save(update_fields=["rule"])


class Migration(migrations.Migration):
    dependencies = [
        ("bridges", "0009_rulebook_note"),
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name="bridge",
            name="paused_at",
            field=models.DateTimeField(editable=False, null=True),
        ),
        migrations.AddField(
            model_name="bridge",
            name="paused_by",
            field=models.ForeignKey(
                editable=False,
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AddField(
            model_name="timetable",
            name="kind",
            field=models.CharField(blank=True, default="", max_length=30),
        ),
        migrations.AlterField(
            model_name="timetable",
            name="bridge",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="timetables", to="bridges.bridge"
            ),
        ),
        migrations.AlterField(
            model_name="timetable",
            name="rule",
            field=models.CharField(max_length=8000),
        ),
        migrations.AddConstraint(
            model_name="timetable",
            constraint=models.UniqueConstraint(fields=("bridge", "kind"), name="timetable_lane"),
        ),
        migrations.RunPython(into_a_day, migrations.RunPython.noop),
    ]
