"""Which kinds of document there are is the registry's to say, and no list of the database."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bridges", "0006_base_rulebooks")]

    operations = [migrations.AlterField("lane", "kind", models.CharField(max_length=30))]
