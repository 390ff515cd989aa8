"""A token, a sign-in and a pace belong to the workspace of their connection."""

from django.db import migrations

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    dependencies = [("connections", "0004_granted")]

    operations = [
        same_workspace("connections_grant", "connection_id", "connections_connection"),
        same_workspace("connections_signin", "connection_id", "connections_connection"),
        same_workspace("connections_pace", "connection_id", "connections_connection"),
    ]
