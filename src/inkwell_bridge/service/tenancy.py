"""Workspaces in every key: a base for what belongs to one, and constraints that the database itself keeps."""

from __future__ import annotations

from typing import Any

from django.db import migrations, models


class WorkspaceOwned(models.Model):
    """A row that belongs to one workspace."""

    workspace = models.ForeignKey("people.Workspace", on_delete=models.CASCADE, related_name="+")

    class Meta:
        abstract = True


def anchored(table: str) -> migrations.RunSQL:
    """Let other tables refer to a row of ``table`` together with its workspace."""
    name = f"{table}_workspace_anchor"
    return migrations.RunSQL(
        f'ALTER TABLE "{table}" ADD CONSTRAINT "{name}" UNIQUE (workspace_id, id)',
        f'ALTER TABLE "{table}" DROP CONSTRAINT "{name}"',
    )


def same_workspace(table: str, column: str, parent: str) -> migrations.RunSQL:
    """Refuse a row of ``table`` whose ``column`` leads to a row of ``parent`` in another workspace."""
    name = f"{table}_{column}_same_ws"
    return migrations.RunSQL(
        f'ALTER TABLE "{table}" ADD CONSTRAINT "{name}" FOREIGN KEY (workspace_id, "{column}") '
        f'REFERENCES "{parent}" (workspace_id, id) DEFERRABLE INITIALLY DEFERRED',
        # A column that a later version took away took its constraint along.
        f'ALTER TABLE "{table}" DROP CONSTRAINT IF EXISTS "{name}"',
    )


def slug_field(**options: Any) -> models.SlugField[str, str]:
    """A short name that stands in addresses; unique in its workspace, never changed."""
    return models.SlugField(max_length=60, **options)
