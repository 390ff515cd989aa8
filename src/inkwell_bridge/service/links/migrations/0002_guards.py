from django.db import migrations

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import anchored, same_workspace

_LINK = "links_link"
_CHANGE = "links_change"


class Migration(migrations.Migration):
    dependencies = [("links", "0001_initial"), ("connections", "0002_guards"), ("people", "0002_guards")]
    operations = [
        anchored(_CHANGE),
        anchored(_LINK),
        *(same_workspace(table, f"{end}_id", "connections_connection")
          for table in (_LINK, _CHANGE) for end in ("source", "books")),
        *(same_workspace(_LINK, column, _CHANGE) for column in ("made_in_id", "ended_in_id")),
        same_workspace(_CHANGE, "undoes_id", _CHANGE),
        # A link is never rewritten: it ends, once, and another begins.
        kept_as_written(_LINK, columns="workspace_id, source_id, books_id, kind, key, target_id, target_code, quantity, "
                                       "share, rule, made_in_id"),
        kept_as_written(_CHANGE),
    ]  # fmt: skip
