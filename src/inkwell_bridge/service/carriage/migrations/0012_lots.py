"""Jobs name the documents of a lot, no longer one."""

from __future__ import annotations

from django.db import migrations

_FORWARD = """
    UPDATE procrastinate_jobs
    SET args = jsonb_build_object('workspace_id', args -> 'workspace_id',
                                  'crossing_ids', jsonb_build_array(args -> 'crossing_id'))
    WHERE task_name = 'carry' AND args ? 'crossing_id'
"""


class Migration(migrations.Migration):
    """Jobs that wait are written anew, so that they go on."""

    dependencies = [("carriage", "0011_one_carriage"), ("procrastinate", "0041_post_retry_failed_job")]
    operations = [migrations.RunSQL(_FORWARD, migrations.RunSQL.noop)]
