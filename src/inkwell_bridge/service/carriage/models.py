"""What was fetched, what was planned, what was posted, and the proof."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.states import (
    ACTIVE_RUN,
    CrossingState,
    DocumentState,
    EntryOutcome,
    RunPurpose,
    RunState,
)
from inkwell_bridge.service.connections.models import Connection, ReferenceLoad
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


def amount_field() -> models.DecimalField[models.DecimalField[object, object], object]:
    """An amount in the currency beside it; wide enough for three digits after the point."""
    return models.DecimalField(max_digits=20, decimal_places=3, null=True)


class Snapshot(WorkspaceOwned):
    """A source document as fetched, without personal data; never changed.

    ``content`` is absent where the document could not be understood; then ``problem`` says why.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="snapshots")
    kind = models.CharField(max_length=30)
    source_id = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    fetched_at = models.DateTimeField()
    content = models.JSONField(null=True)
    checksum = models.CharField(max_length=64)
    fingerprint = models.CharField(max_length=80)
    problem = models.TextField(default="")

    class Meta:
        indexes = [models.Index(fields=["workspace", "connection", "kind", "source_id", "-id"], name="snapshot_newest")]


class PersonalData(WorkspaceOwned):
    """Who bought, apart from the figures: erased or expired, it leaves snapshot and checksum as they were."""

    snapshot = models.OneToOneField(Snapshot, on_delete=models.CASCADE, related_name="personal")
    sealed = models.BinaryField(null=True)
    expires_at = models.DateTimeField(null=True)
    erased_at = models.DateTimeField(null=True)


class Run(WorkspaceOwned):
    """One going-over of a bridge; with ``numbers``, of those orders alone."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="runs")
    purpose = models.CharField(max_length=10, choices=RunPurpose, default=RunPurpose.CARRY)
    state = models.CharField(max_length=10, choices=RunState, default=RunState.READING)
    numbers = models.JSONField(default=list)
    started_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    by_timetable = models.BooleanField(default=False)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    trouble = models.TextField(default="")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bridge"], condition=Q(state__in=ACTIVE_RUN), name="run_one_at_a_time"),
        ]
        indexes = [models.Index(fields=["workspace", "-id"], name="run_newest")]


class Crossing(WorkspaceOwned):
    """One source document on one bridge. The figures beside the snapshot are the source's own, for lists and totals;
    ``withheld`` is what a marketplace keeps of them, ``voucher_net`` and ``voucher_tax`` what vouchers paid that were
    taxed when they were sold, ``untaxed`` the tax of deposits that is due on no document yet, ``articles`` what was
    found out of what was sold, ``given_back`` the snapshots of the refunds before the final invoice."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="crossings")
    kind = models.CharField(max_length=30, default="orders")
    source_id = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    snapshot = models.ForeignKey(Snapshot, on_delete=models.PROTECT, related_name="crossings")
    rulebook = models.ForeignKey(RulebookVersion, on_delete=models.PROTECT, null=True, related_name="+")
    reference = models.ForeignKey(ReferenceLoad, on_delete=models.PROTECT, null=True, related_name="+")
    articles = models.JSONField(null=True)
    given_back = models.JSONField(default=list)
    planned = models.JSONField(null=True)
    findings = models.JSONField(default=list)
    state = models.CharField(max_length=10, choices=CrossingState, default=CrossingState.WAITING)
    cause = models.CharField(max_length=40, default="", blank=True)
    left_out_by = models.CharField(max_length=120, default="", blank=True)
    trouble = models.TextField(default="", blank=True)
    tries = models.PositiveIntegerField(default=0)
    next_try_at = models.DateTimeField(null=True)
    placed_at = models.DateTimeField(null=True)
    business_date = models.DateField(null=True)
    currency = models.CharField(max_length=3, default="")
    net, tax, gross = amount_field(), amount_field(), amount_field()
    withheld = amount_field()
    voucher_net, voucher_tax = amount_field(), amount_field()
    untaxed = amount_field()
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "bridge", "kind", "source_id"], name="crossing_source"),
        ]
        indexes = [
            models.Index(fields=["workspace", "bridge", "business_date"], name="crossing_date"),
            models.Index(fields=["workspace", "state", "cause"], name="crossing_state"),
            models.Index(fields=["workspace", "number"], name="crossing_number"),
        ]


class RunEntry(WorkspaceOwned):
    """What one run did with one source document."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="entries")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="entries")
    outcome = models.CharField(max_length=10, choices=EntryOutcome, default=EntryOutcome.PENDING)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "crossing"], name="entry_crossing")]
        indexes = [models.Index(fields=["run", "outcome"], name="entry_outcome")]


class Document(WorkspaceOwned):
    """One document of a plan, on its way into the books and there.

    ``intended_at`` is written before the call that makes a draft goes out, and stays until its outcome
    is known. ``settled`` is the planned invoice with the books' own taxes and the rounding line,
    ``reasons`` why it is not as planned.
    """

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="documents")
    connection = models.ForeignKey(Connection, on_delete=models.PROTECT, related_name="documents")
    role = models.CharField(max_length=30)
    part = models.PositiveSmallIntegerField(default=1)
    mark = models.CharField(max_length=250)
    state = models.CharField(max_length=10, choices=DocumentState, default=DocumentState.WAITING)
    planned = models.JSONField()
    settled = models.JSONField(null=True)
    reasons = models.JSONField(default=list)
    held = models.JSONField(null=True)
    contact_id = models.CharField(max_length=120, default="")
    intended_at = models.DateTimeField(null=True)
    posting_at = models.DateTimeField(null=True)
    books_id = models.CharField(max_length=120, default="", blank=True)
    books_number = models.CharField(max_length=120, default="", blank=True)
    link = models.CharField(max_length=500, default="", blank=True)
    currency = models.CharField(max_length=3)
    difference = amount_field()
    net, tax, gross = amount_field(), amount_field(), amount_field()
    proved_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "connection", "mark"], name="document_mark"),
        ]
        indexes = [models.Index(fields=["workspace", "state"], name="document_state")]

    @property
    def begun(self) -> bool:
        """Whether it may be in the books, as a draft or posted."""
        return bool(self.books_id or self.intended_at or self.posting_at)


class Exchange(WorkspaceOwned):
    """One call to the books about a document of a crossing: what was sent, what came back.

    It names the document by its mark, for a document that is made anew is another row. Personal data is left out.
    """

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="exchanges")
    mark = models.CharField(max_length=250)
    at = models.DateTimeField(auto_now_add=True)
    call = models.CharField(max_length=60)
    sent = models.JSONField(null=True)
    answered = models.JSONField(null=True)
    failure = models.TextField(default="")


class ContactLink(WorkspaceOwned):
    """Which contact of the books a buyer is. The buyer is a digest, so that nothing personal stands here.

    ``intended_key`` is the idempotency key of the call that ``intended_at`` stands for. ``company`` is whose books
    they were: a connection that was switched to another company starts clean, and this stays as history.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="contact_links")
    buyer = models.CharField(max_length=64)
    books_id = models.CharField(max_length=120, default="", blank=True)
    intended_at = models.DateTimeField(null=True)
    intended_key = models.CharField(max_length=120, default="")
    company = models.CharField(max_length=200, default="", blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "connection", "company", "buyer"], name="contact_link_buyer")
        ]
