"""What stands between the sides may be of an account."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """The choices of one column."""

    dependencies = [
        ("closing", "0001_initial"),
    ]

    operations = [
        migrations.AlterField(
            model_name="laterchange",
            name="grain",
            field=models.CharField(
                choices=[("document", "document"), ("line", "line"), ("account", "account")], max_length=10
            ),
        ),
    ]
