"""Work that somebody asked for and that goes on in the background: how far it is, and how it ends."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, ClassVar, Self, TypeVar

import structlog
from django.conf import settings
from django.db import IntegrityError, InterfaceError, OperationalError, models, transaction
from django.utils import timezone

from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.tenancy import WorkspaceOwned
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.jobs")


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


Work = TypeVar("Work", bound=AskedWork)


class AlreadyUnderWay(Refusal):
    """One of the same bridge is under way; ``what`` is its name among the members of the problem."""

    what = "work"

    def __init__(self, text: str, running: int) -> None:
        self.hint = f"Wait for it, or cancel {self.what} {running}."
        self._running = running
        super().__init__(text)

    def members(self) -> dict[str, Any]:
        """Which one."""
        return {self.what: self._running}


def begin(make: Callable[[], Work], others: models.QuerySet[Work], refuse: Callable[[Work], AlreadyUnderWay]) -> Work:
    """What ``make`` makes in one transaction: the row, and whatever puts its job on the queue. Of ``others`` one goes
    on at a time, which a constraint of the database sees to.

    Raises:
        AlreadyUnderWay: as ``refuse`` says of the one that is.
    """
    while True:
        try:
            with transaction.atomic():
                return make()
        except IntegrityError:
            running = others.filter(state__in=ACTIVE).first()
            if running is not None:
                raise refuse(running) from None
            # It ended between our try and our look: the way is free.


def forget_old(rows: models.QuerySet[Work], *, keep: int) -> None:
    """Delete all but the newest of these rows, and those that still go on."""
    old = list(rows.order_by("-pk").values_list("pk", flat=True)[keep:])
    rows.model.objects.filter(pk__in=old).exclude(state__in=ACTIVE).delete()


def see_through(found: Work, work: Callable[[Work], None], *, in_words: Callable[[Exception], str]) -> None:
    """Do the work of one row, in its job; what stops it ends the row with the reason.

    ``in_words`` says what an end's error means here.

    Raises:
        TryLater: the database went away; the work is begun again.
    """
    try:
        work(found)
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
    except (EndError, Unreadable) as error:
        found.fail(in_words(error))
    except Exception:
        # At the rim nothing may vanish: whoever waits for it hears that it ended.
        log.exception("work.failed", of=type(found).__name__, workspace=found.workspace_id, row=found.pk)
        found.fail("Inkwell Bridge itself failed on this; its log names the failure.")
