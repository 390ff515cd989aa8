from django.db import migrations

from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    dependencies = [("reference", "0001_initial"), ("connections", "0003_state_and_care"), ("people", "0002_guards")]
    operations = [
        anchored("reference_loading"),
        anchored("reference_entry"),
        same_workspace("reference_loading", "connection_id", "connections_connection"),
        same_workspace("reference_entry", "connection_id", "connections_connection"),
        same_workspace("reference_entry", "seen_in_id", "reference_loading"),
    ]
