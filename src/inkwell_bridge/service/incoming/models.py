"""Where ends call us, what they sign with, and what they said."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned

# The kind of what books call about: a document of theirs, whatever it is.
IN_BOOKS = "documents"


class IncomingState(models.TextChoices):
    """What became of a call."""

    WAITING = "waiting", "Waits to be looked at"
    DONE = "done", "The document was looked at"
    NOT_CARRIED = "not carried", "No lane is on for it"
    NOT_FOUND = "not found", "The end has no such document"


class CallAddress(WorkspaceOwned):
    """Where an end calls us: ``key`` stands in the address, and is no secret but none to be guessed.

    ``expected_within_minutes`` is how long it may be silent before it should have been heard; 0: it promises nothing.
    ``refused`` counts what was not signed by it, or was no event.
    """

    connection = models.OneToOneField(Connection, on_delete=models.CASCADE, related_name="call_address")
    key = models.CharField(max_length=43, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    expected_within_minutes = models.PositiveIntegerField(default=0)
    last_call_at = models.DateTimeField(null=True)
    refused = models.PositiveIntegerField(default=0)
    last_refused_at = models.DateTimeField(null=True)
    last_refused_why = models.CharField(max_length=300, default="", blank=True)

    @property
    def should_be_heard_by(self) -> datetime | None:
        """When it should have called again; nothing where it promises nothing."""
        if not self.expected_within_minutes:
            return None
        return (self.last_call_at or self.made_at) + timedelta(minutes=self.expected_within_minutes)


class CallSecret(WorkspaceOwned):
    """A secret that an end signs its calls with, sealed. Two may be good at a time, while one takes over."""

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="call_secrets")
    sealed = models.BinaryField()
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, related_name="+")
    ends_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["connection", "-id"], name="call_secret_newest")]


class IncomingCall(WorkspaceOwned):
    """What a call said: that something happened to a document of that number; never more of it is kept, or believed.

    ``call_id`` is the sender's, the same for every try: a call that comes twice is one.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="incoming_calls")
    call_id = models.CharField(max_length=200)
    kind = models.CharField(max_length=30)
    number = models.CharField(max_length=200)
    happened_at = models.DateTimeField()
    received_at = models.DateTimeField()
    looked_at = models.DateTimeField(null=True)
    state = models.CharField(max_length=12, choices=IncomingState, default=IncomingState.WAITING)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "call_id"], name="incoming_call_once")]
        indexes = [
            models.Index(fields=["workspace", "-id"], name="incoming_newest"),
            models.Index(fields=["workspace", "connection", "-id"], name="incoming_of_connection"),
            models.Index(fields=["connection", "id"], condition=Q(state="waiting"), name="incoming_waiting"),
        ]
