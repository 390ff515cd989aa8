from django.db import migrations

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    dependencies = [("bridges", "0001_initial"), ("connections", "0002_guards")]
    operations = [
        anchored("bridges_bridge"),
        anchored("bridges_rulebookversion"),
        same_workspace("bridges_bridge", "source_id", "connections_connection"),
        same_workspace("bridges_bridge", "books_id", "connections_connection"),
        same_workspace("bridges_bridge", "company_id", "people_company"),
        same_workspace("bridges_lane", "bridge_id", "bridges_bridge"),
        same_workspace("bridges_rulebookversion", "bridge_id", "bridges_bridge"),
        same_workspace("bridges_timetable", "bridge_id", "bridges_bridge"),
        kept_as_written("bridges_rulebookversion", when="OLD.published_at IS NOT NULL"),
    ]
