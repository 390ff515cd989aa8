"""A breaker for each connection, kept where all workers see it."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("connections", "0005_granted_guards")]

    operations = [
        migrations.AddField("connection", "away_until", models.DateTimeField(null=True)),
        migrations.AddField("connection", "away_count", models.PositiveIntegerField(default=0)),
    ]
