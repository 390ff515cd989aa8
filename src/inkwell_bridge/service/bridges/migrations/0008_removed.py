"""A bridge can be removed: its documents stay, and its name is free for another."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bridges", "0007_lane_kinds")]

    operations = [
        migrations.AddField("bridge", "removed_at", models.DateTimeField(null=True, editable=False)),
        migrations.RemoveConstraint("bridge", "bridge_slug"),
        migrations.AddConstraint(
            "bridge",
            models.UniqueConstraint(
                fields=["workspace", "slug"], condition=models.Q(removed_at__isnull=True), name="bridge_slug"
            ),
        ),
    ]
