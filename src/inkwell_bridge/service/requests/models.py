"""How often payment links are opened, so that nobody tries them one after the other."""

from __future__ import annotations

from django.db import models


class Openings(models.Model):
    """So many openings in one minute, by a digest of who opened or of what; of no workspace, for most of those that
    are counted lead to none."""

    digest = models.CharField(max_length=64)
    minute = models.DateTimeField()
    count = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["digest", "minute"], name="openings_of_a_minute")]
        indexes = [models.Index(fields=["minute"], name="openings_age")]
