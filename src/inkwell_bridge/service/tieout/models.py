"""Days that have tied, so that one that ties no longer is seen."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.tenancy import WorkspaceOwned


class TiedDay(WorkspaceOwned):
    """A day of a bridge on which both sides have tied; ``untied_at`` is since when they do so no longer."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="+")
    date = models.DateField()
    untied_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bridge", "date"], name="tied_day_once")]
        indexes = [models.Index(fields=["bridge", "date"], condition=Q(untied_at__isnull=False), name="untied_day")]
