"""When an end last answered is its last contact."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("connections", "0007_removed")]

    operations = [migrations.RenameField("connection", "heard_at", "last_contact_at")]
