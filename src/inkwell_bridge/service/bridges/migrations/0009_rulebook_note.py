"""What somebody said of a version of the rules."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bridges", "0008_removed")]

    operations = [
        migrations.AddField(
            model_name="rulebookversion",
            name="note",
            field=models.CharField(blank=True, default="", max_length=500),
        )
    ]
