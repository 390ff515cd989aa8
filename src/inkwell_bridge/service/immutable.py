"""Rows that the database itself refuses to change."""

from __future__ import annotations

from django.db import migrations

_FUNCTION = """
CREATE OR REPLACE FUNCTION inkwell_refuse() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% of % is refused: it is kept as it was written', TG_OP, TG_TABLE_NAME;
END $$;
"""


def kept_as_written(table: str, *, when: str = "", columns: str = "") -> migrations.RunSQL:
    """Refuse updates (of ``columns``, where named) and deletions of rows of ``table``, or of those where ``when``."""
    condition = f"WHEN ({when})" if when else ""
    of = f"OF {columns}" if columns else ""
    return migrations.RunSQL(
        _FUNCTION + f'CREATE TRIGGER {table}_kept BEFORE UPDATE {of} OR DELETE ON "{table}" '
        f"FOR EACH ROW {condition} EXECUTE FUNCTION inkwell_refuse()",
        f'DROP TRIGGER {table}_kept ON "{table}"',
    )
