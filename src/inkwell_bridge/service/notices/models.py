"""Troubles as they come and go, who is told of which, and what they were told."""

from __future__ import annotations

from django.db import models
from django.db.models import F, Q

from inkwell_bridge.core.notices import TroubleKind
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned

TROUBLE_KINDS = [(kind.value, kind.value.capitalize()) for kind in TroubleKind]


class Channel(models.TextChoices):
    """How somebody is told."""

    MAIL = "mail", "E-mail"
    CALL = "call", "Signed call"


class NoticeState(models.TextChoices):
    """What became of a message."""

    WAITING = "waiting", "Waits to be sent"
    SENT = "sent", "Sent"
    FAILED = "failed", "Given up"


class Trouble(WorkspaceOwned):
    """Something that needs somebody: what is held by one cause, an end that does not answer, a run that failed.

    One of a ``key`` stands open at a time; it is over once nothing of it is left. ``amounts`` are by currency, as
    decimal text. ``next_try_at`` and ``tries`` are the breaker's, where an end is away.
    """

    key = models.CharField(max_length=200)
    kind = models.CharField(max_length=12, choices=TROUBLE_KINDS)
    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, null=True, related_name="+")
    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, null=True, related_name="+")
    lane = models.CharField(max_length=30, default="", blank=True)
    cause = models.CharField(max_length=60, default="", blank=True)
    count = models.PositiveIntegerField(default=0)
    amounts = models.JSONField(default=dict)
    oldest = models.CharField(max_length=120, default="", blank=True)
    text = models.TextField(default="", blank=True)
    tries = models.PositiveIntegerField(default=0)
    next_try_at = models.DateTimeField(null=True)
    opened_at = models.DateTimeField()
    changed_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "key"], condition=Q(ended_at=None), name="trouble_open_once")
        ]
        indexes = [
            models.Index(F("workspace"), F("ended_at").desc(nulls_first=True), F("id").desc(), name="trouble_newest"),
            models.Index(fields=["ended_at"], name="trouble_ended"),
        ]


class NoticeRule(WorkspaceOwned):
    """Who is told of what, how and when.

    By e-mail to a ``person``, or by a signed call to an ``address`` (``sealed`` is what it is signed with). Of these
    ``kinds`` of trouble, ``bridges`` and ``lanes``; of all, where none is named. At once, or as a digest at
    ``digest_at``; ``summary_at`` is when the summary of the day before is sent. Nothing is sent from ``quiet_from`` to
    ``quiet_until``. All times are by the clocks of ``time_zone``.
    """

    channel = models.CharField(max_length=4, choices=Channel)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, null=True, related_name="+")
    address = models.URLField(max_length=500, default="", blank=True)
    sealed = models.BinaryField(default=b"")
    kinds = models.JSONField(default=list)
    bridges = models.JSONField(default=list)
    lanes = models.JSONField(default=list)
    at_once = models.BooleanField(default=True)
    digest_at = models.TimeField(null=True)
    summary_at = models.TimeField(null=True)
    quiet_from = models.TimeField(null=True)
    quiet_until = models.TimeField(null=True)
    time_zone = models.CharField(max_length=60)
    on = models.BooleanField(default=True)
    made_by = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    next_digest_at = models.DateTimeField(null=True)
    next_summary_at = models.DateTimeField(null=True)
    last_sent_at = models.DateTimeField(null=True)
    last_failure = models.CharField(max_length=300, default="", blank=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "id"], name="notice_rule_listed")]


class LastNotice(WorkspaceOwned):
    """When a rule's reader was last sent word of a trouble, and how it stood then: what decides on the next message."""

    rule = models.ForeignKey(NoticeRule, on_delete=models.CASCADE, related_name="last_notices")
    trouble = models.ForeignKey(Trouble, on_delete=models.CASCADE, related_name="last_notices")
    at = models.DateTimeField()
    count = models.PositiveIntegerField()
    over = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["rule", "trouble"], name="last_notice_once")]


class Notice(WorkspaceOwned):
    """A message: what was sent, to whom, and whether it was taken. ``event`` is what a call says (CloudEvents)."""

    rule = models.ForeignKey(NoticeRule, on_delete=models.CASCADE, related_name="notices")
    subject = models.CharField(max_length=200)
    text = models.TextField()
    event = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=NoticeState, default=NoticeState.WAITING)
    made_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True)
    tries = models.PositiveIntegerField(default=0)
    failure = models.CharField(max_length=300, default="", blank=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "-id"], name="notice_newest")]


class NoticesRead(WorkspaceOwned):
    """Up to when somebody has looked at the troubles of a workspace."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "person"], name="notices_read_once")]
