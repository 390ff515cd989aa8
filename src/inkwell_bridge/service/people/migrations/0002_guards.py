from django.db import migrations

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import anchored


class Migration(migrations.Migration):
    dependencies = [("people", "0001_initial")]
    operations = [anchored("people_company"), kept_as_written("people_trailentry")]
