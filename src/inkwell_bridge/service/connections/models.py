"""Connections and what was loaded from them."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.tenancy import WorkspaceOwned, slug_field


class ConnectionState(models.TextChoices):
    """What was last heard of an end."""

    NEW = "new", "Never checked"
    CONNECTED = "connected", "Connected"
    LIMITED = "limited", "Rights missing"
    EXPIRING = "expiring", "Key about to expire"
    REFUSED = "refused", "Refused"
    UNREACHABLE = "unreachable", "Unreachable"
    OTHER_COMPANY = "other company", "Another company"


class Connection(WorkspaceOwned):
    """One end. ``credentials`` are encrypted; they are written, never read back by any call.

    ``settled_company`` is the name of the company or shop that what is linked and posted here belongs to; an end
    that turns out to be another's is not used until somebody has said that it is meant.
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
    heard_at = models.DateTimeField(null=True)
    described = models.JSONField(default=dict)
    settled_company = models.CharField(max_length=200, default="", blank=True)
    key_expires_at = models.DateTimeField(null=True)
    check_every_minutes = models.PositiveIntegerField(default=60)
    reload_every_hours = models.PositiveIntegerField(default=24)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "slug"], name="connection_slug")]


class ReferenceLoad(WorkspaceOwned):
    """What the books called things at one moment; never changed, so that a plan can be made again."""

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="reference_loads")
    loaded_at = models.DateTimeField()
    checksum = models.CharField(max_length=64)
    content = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "checksum"], name="reference_content")]
        indexes = [models.Index(fields=["workspace", "connection", "-loaded_at"], name="reference_newest")]
