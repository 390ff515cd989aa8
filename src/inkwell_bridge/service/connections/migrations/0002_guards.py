from django.db import migrations

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    dependencies = [("connections", "0001_initial"), ("people", "0002_guards")]
    operations = [
        anchored("connections_connection"),
        anchored("connections_referenceload"),
        same_workspace("connections_connection", "company_id", "people_company"),
        same_workspace("connections_referenceload", "connection_id", "connections_connection"),
        kept_as_written("connections_referenceload", columns="workspace_id, connection_id, checksum, content"),
    ]
