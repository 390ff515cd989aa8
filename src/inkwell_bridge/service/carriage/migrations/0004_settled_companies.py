from django.db import migrations

# What was posted already belongs to the company that its end last said it is.
_SETTLE = """
UPDATE connections_connection SET settled_company = left(coalesce(described->>'company', ''), 200)
WHERE settled_company = '' AND (
    id IN (SELECT connection_id FROM carriage_document)
    OR id IN (SELECT bridge.source_id FROM bridges_bridge bridge
              JOIN carriage_crossing crossing ON crossing.bridge_id = bridge.id))
"""


class Migration(migrations.Migration):
    dependencies = [("carriage", "0003_other_books"), ("connections", "0003_state_and_care")]
    operations = [migrations.RunSQL(_SETTLE, migrations.RunSQL.noop)]
