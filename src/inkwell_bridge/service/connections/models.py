"""Connections and what was loaded from them."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.tenancy import Pausable, Removable, WorkspaceOwned, slug_field, unique_while_current


class ConnectionState(models.TextChoices):
    """What was last known of an end."""

    NEW = "new", "Never checked"
    CONNECTED = "connected", "Connected"
    LIMITED = "limited", "Rights missing"
    EXPIRING = "expiring", "Key about to expire"
    REFUSED = "refused", "Refused"
    SIGN_IN = "sign-in", "Sign-in needed"
    UNREACHABLE = "unreachable", "Unreachable"
    OTHER_COMPANY = "other company", "Another company"


class Connection(Pausable, Removable):
    """One end. ``credentials`` are encrypted; they are written, never read back by any call.

    ``settled_company`` is the name of the company or shop that what is linked and posted here belongs to; an end
    that turns out to be another's is not used until somebody has said that it is meant. ``away_until`` and
    ``away_count`` are the breaker's (``breaker.py``). Checks are counted when they are asked for, and when they are
    done: while there are fewer of these, one is on its way.
    """

    slug = slug_field()
    name = models.CharField(max_length=200)
    kind = models.CharField(max_length=60)
    side = models.CharField(max_length=10, choices=[("sales", "Sales"), ("books", "Books")])
    company = models.ForeignKey(Company, on_delete=models.PROTECT, null=True, related_name="connections")
    address = models.URLField(max_length=500)
    credentials = models.BinaryField()
    state = models.CharField(max_length=20, choices=ConnectionState, default=ConnectionState.NEW)
    state_text = models.TextField(default="")
    checked_at = models.DateTimeField(null=True)
    last_contact_at = models.DateTimeField(null=True)
    described = models.JSONField(default=dict)
    settled_company = models.CharField(max_length=200, default="", blank=True)
    key_expires_at = models.DateTimeField(null=True)
    checks_asked = models.PositiveIntegerField(default=0)
    checks_done = models.PositiveIntegerField(default=0)
    check_every_minutes = models.PositiveIntegerField(default=60)
    reload_every_hours = models.PositiveIntegerField(default=24)
    version = models.PositiveIntegerField(default=1)
    away_until = models.DateTimeField(null=True)
    away_count = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [unique_while_current("slug", name="connection_slug")]

    @property
    def may_be_asked(self) -> bool:
        """Whether anybody may ask it now: it is not paused, and not another company's by now."""
        return self.paused_at is None and self.state != ConnectionState.OTHER_COMPANY

    @property
    def checking(self) -> bool:
        """Whether a check was asked for that is not done yet."""
        return self.checks_done < self.checks_asked


class Grant(WorkspaceOwned):
    """The token that an end gave us for a while, sealed; who signed in and when, where somebody did."""

    connection = models.OneToOneField(Connection, on_delete=models.CASCADE, related_name="grant")
    sealed = models.BinaryField(default=b"")
    signed_in_at = models.DateTimeField(null=True)
    by = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, related_name="+")


class SignIn(WorkspaceOwned):
    """A sign-in through a consent page that is under way: known by the digest of its state, good once."""

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    digest = models.CharField(max_length=64, unique=True)
    sealed = models.BinaryField()
    return_to = models.CharField(max_length=500)
    begun_at = models.DateTimeField()


class Pace(WorkspaceOwned):
    """When the last turn to call an end that was given away is over; see ``ends.pace``."""

    connection = models.OneToOneField(Connection, on_delete=models.CASCADE, primary_key=True, related_name="+")
    over_at = models.DateTimeField()


class ReferenceLoad(WorkspaceOwned):
    """What the books called things at one moment; never changed, so that a plan can be made again."""

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="reference_loads")
    loaded_at = models.DateTimeField()
    checksum = models.CharField(max_length=64)
    content = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "checksum"], name="reference_content")]
        indexes = [models.Index(fields=["workspace", "connection", "-loaded_at"], name="reference_newest")]
