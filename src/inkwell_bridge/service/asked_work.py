"""Work that somebody asked for and that goes on in the background: how far it is, and how it ends."""

from __future__ import annotations

from typing import ClassVar, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from inkwell_bridge.service.tenancy import WorkspaceOwned


class WorkState(models.TextChoices):
    """How far it is."""

    WAITING = "waiting"
    RUNNING = "running"
    ENDED = "ended"
    CANCELLED = "cancelled"
    FAILED = "failed"


ACTIVE = (WorkState.WAITING, WorkState.RUNNING)


class AskedWork(WorkspaceOwned):
    """A row of such work; ``trouble`` says why it failed, ``done`` of ``total`` how far it is."""

    state = models.CharField(max_length=10, choices=WorkState, default=WorkState.WAITING)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    asked_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    total = models.PositiveIntegerField(null=True)
    done = models.PositiveIntegerField(default=0)
    trouble = models.TextField(default="")

    objects: ClassVar[models.Manager[Self]]

    class Meta:
        abstract = True

    @property
    def while_active(self) -> models.QuerySet[Self]:
        """Its row for as long as it goes on: what is written through it changes nothing that has ended."""
        return type(self).objects.filter(pk=self.pk, state__in=ACTIVE)

    def cancel(self) -> None:
        """End it, as far as it came; one that has ended stays as it was."""
        self.while_active.update(state=WorkState.CANCELLED, ended_at=timezone.now())
        self.refresh_from_db()

    def fail(self, why: str) -> None:
        """End it for a reason."""
        self.while_active.update(state=WorkState.FAILED, trouble=why, ended_at=timezone.now())
