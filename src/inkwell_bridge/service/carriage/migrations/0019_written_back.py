"""What the sales side was told of a document."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0018_decisions"),
    ]

    operations = [
        migrations.AddField(
            model_name="crossing",
            name="written_back",
            field=models.JSONField(default=list),
        ),
    ]
