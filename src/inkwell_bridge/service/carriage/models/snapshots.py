"""What was fetched, who is in it, and what was erased of it."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Snapshot(WorkspaceOwned):
    """A source document as fetched, without personal data; never changed.

    ``content`` is absent where the document could not be understood; then ``problem`` says why. ``content_digest`` is
    of all that a rule can read, people included: a change renews whatever is not posted yet. ``books_digest`` is of
    what matters to the books: it decides whether what was posted is affected.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="snapshots")
    kind = models.CharField(max_length=30)
    source_id = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    fetched_at = models.DateTimeField()
    content = models.JSONField(null=True)
    checksum = models.CharField(max_length=64)
    books_digest = models.CharField(max_length=80)
    content_digest = models.CharField(max_length=80, default="")
    problem = models.TextField(default="")

    class Meta:
        indexes = [models.Index(fields=["workspace", "connection", "kind", "source_id", "-id"], name="snapshot_newest")]


class PersonalData(WorkspaceOwned):
    """Who bought, apart from the figures: erased or expired, it leaves snapshot and checksum as they were."""

    snapshot = models.OneToOneField(Snapshot, on_delete=models.CASCADE, related_name="personal")
    sealed = models.BinaryField(null=True)
    expires_at = models.DateTimeField(null=True)
    erased_at = models.DateTimeField(null=True)


class Erasure(WorkspaceOwned):
    """Somebody's wish that all that tells of one buyer be erased: known by a digest, so that no e-mail stands here.

    ``snapshots`` and ``names`` count what was erased; ``kept`` are the numbers of what has not crossed yet.
    """

    digest = models.CharField(max_length=64)
    asked_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    looked_at = models.PositiveIntegerField(default=0)
    snapshots = models.PositiveIntegerField(default=0)
    names = models.PositiveIntegerField(default=0)
    kept = models.JSONField(default=list)

    class Meta:
        indexes = [models.Index(fields=["workspace", "-id"], name="erasure_newest")]
