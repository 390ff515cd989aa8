"""A connection can be removed: what was posted through it stays, and its name is free for another."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("connections", "0006_breaker")]

    operations = [
        migrations.AddField("connection", "removed_at", models.DateTimeField(null=True, editable=False)),
        migrations.RemoveConstraint("connection", "connection_slug"),
        migrations.AddConstraint(
            "connection",
            models.UniqueConstraint(
                fields=["workspace", "slug"], condition=models.Q(removed_at__isnull=True), name="connection_slug"
            ),
        ),
    ]
