from django.db import migrations

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    dependencies = [("carriage", "0001_initial"), ("bridges", "0002_guards")]
    operations = [
        anchored("carriage_snapshot"),
        anchored("carriage_run"),
        anchored("carriage_crossing"),
        anchored("carriage_document"),
        same_workspace("carriage_snapshot", "connection_id", "connections_connection"),
        same_workspace("carriage_personaldata", "snapshot_id", "carriage_snapshot"),
        same_workspace("carriage_run", "bridge_id", "bridges_bridge"),
        same_workspace("carriage_crossing", "bridge_id", "bridges_bridge"),
        same_workspace("carriage_crossing", "snapshot_id", "carriage_snapshot"),
        same_workspace("carriage_crossing", "rulebook_id", "bridges_rulebookversion"),
        same_workspace("carriage_crossing", "reference_id", "connections_referenceload"),
        same_workspace("carriage_runentry", "run_id", "carriage_run"),
        same_workspace("carriage_runentry", "crossing_id", "carriage_crossing"),
        same_workspace("carriage_document", "crossing_id", "carriage_crossing"),
        same_workspace("carriage_document", "connection_id", "connections_connection"),
        same_workspace("carriage_exchange", "crossing_id", "carriage_crossing"),
        same_workspace("carriage_contactlink", "connection_id", "connections_connection"),
        kept_as_written("carriage_snapshot"),
    ]
