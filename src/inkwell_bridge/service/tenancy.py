"""Workspaces in every key: a base for what belongs to one, and constraints that the database itself keeps."""

from __future__ import annotations

from typing import Any

from django.db import migrations, models


class WorkspaceOwned(models.Model):
    """A row that belongs to one workspace."""

    workspace = models.ForeignKey("people.Workspace", on_delete=models.CASCADE, related_name="+")

    class Meta:
        abstract = True


class _Current(models.Manager[Any]):
    """What was not removed."""

    def get_queryset(self) -> models.QuerySet[Any]:
        return super().get_queryset().filter(removed_at__isnull=True)


class Removable(WorkspaceOwned):
    """A row that people can remove while history goes on naming it; its name is free for another from then on.

    ``objects`` has all there ever were, ``current`` those that stand.
    """

    removed_at = models.DateTimeField(null=True, editable=False)

    objects: models.Manager[Any] = models.Manager()
    current: models.Manager[Any] = _Current()

    class Meta:
        abstract = True


class Pausable(models.Model):
    """A row that people can pause: nothing is read or carried by way of it until it goes on."""

    paused_at = models.DateTimeField(null=True, editable=False)
    paused_by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True, editable=False,
                                  related_name="+")  # fmt: skip

    class Meta:
        abstract = True

    @property
    def paused_text(self) -> str:
        """Since when it is paused, and by whom; nothing where it is not."""
        if self.paused_at is None:
            return ""
        by = f" by {self.paused_by.email}" if self.paused_by else ""
        return f"paused since {self.paused_at:%Y-%m-%d %H:%M} UTC{by}"


def unique_while_current(*fields: str, name: str) -> models.UniqueConstraint:
    """One of these alone among those that stand."""
    return models.UniqueConstraint(
        fields=["workspace", *fields], condition=models.Q(removed_at__isnull=True), name=name
    )


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
