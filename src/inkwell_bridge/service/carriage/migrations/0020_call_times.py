"""How long calls to ends took."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0019_written_back"),
    ]

    operations = [
        migrations.AddField(
            model_name="exchange",
            name="milliseconds",
            field=models.PositiveIntegerField(null=True),
        ),
    ]
