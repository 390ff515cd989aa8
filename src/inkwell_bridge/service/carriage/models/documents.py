"""Source documents on their bridges, what they became and each one's share in it, and what happened to them."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal
from functools import cached_property

from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import F, Q, Value
from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.db.models.functions import Coalesce, Upper

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.planner.payouts import IN_SUSPENSE
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.models.fields import amount_field
from inkwell_bridge.service.carriage.models.snapshots import Snapshot
from inkwell_bridge.service.carriage.states import (
    CrossingState,
    DocumentState,
    EventKind,
    Trial,
)
from inkwell_bridge.service.connections.models import Connection, ReferenceLoad
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned

# What has no moment or no amount comes last in a list; a cursor between rows with and without one needs a value for it.
MOMENT_OR_FIRST = Coalesce(F("moment"), Value(datetime(1900, 1, 1, tzinfo=UTC)))
GROSS_OR_LEAST = Coalesce(F("gross"), Value(Decimal("-999999999999999")))
MONEY_ROLES = (Role.PAYMENT.value, Role.REFUND_PAYMENT.value)
OPEN_STATES = (CrossingState.WAITING, CrossingState.HELD, CrossingState.DIFFERS)


# A share in what stands at its end, and in nothing that another document counts for.
COUNTED_DOCUMENT = Q(document__posting_at__isnull=False, document__put_right=False) & ~Q(
    document__state=DocumentState.CANCELLED
)


class Document(WorkspaceOwned):
    """One document on its way into an end, and there.

    ``external_reference`` is our name for it at that end, the same for every attempt; nobody reads anything out of it.
    ``intended_at`` is written before the call that makes a draft goes out, and stays until its outcome
    is known. ``settled`` is the planned document with the books' own taxes and the rounding line, where these make it
    another; ``reasons`` why it is not as planned, ``record`` what was read back, and ``copies`` what else was found
    there under its reference. ``snapshot`` is what it was made from.
    ``read_at`` is when it was read back last, and ``read_due_at`` when it is to be read again; nothing where it is not.
    ``amendment`` counts the changes after its source was posted first: 0 of what was posted then, 1 of the documents
    that made the first change good, and so on.
    Of what a person had put right in the books: ``put_right`` are the documents that were made for that, and one that
    was credited for it; whatever is planned later passes these by. ``counts_as`` is what a document counts as in plans
    together with these.
    """

    connection = models.ForeignKey(Connection, on_delete=models.PROTECT, related_name="documents")
    role = models.CharField(max_length=30)
    external_reference = models.CharField(max_length=250)
    amendment = models.PositiveSmallIntegerField(default=0)
    snapshot = models.ForeignKey(Snapshot, on_delete=models.PROTECT, null=True, related_name="+")
    state = models.CharField(max_length=10, choices=DocumentState, default=DocumentState.WAITING)
    planned = models.JSONField()
    settled = models.JSONField(null=True)
    reasons = models.JSONField(default=list)
    counts_as = models.JSONField(null=True)
    put_right = models.BooleanField(default=False)
    record = models.JSONField(null=True)
    copies = models.JSONField(default=list)
    contact_id = models.CharField(max_length=120, default="")
    intended_at = models.DateTimeField(null=True)
    posting_at = models.DateTimeField(null=True)
    books_id = models.CharField(max_length=120, default="", blank=True)
    books_number = models.CharField(max_length=120, default="", blank=True)
    link = models.CharField(max_length=500, default="", blank=True)
    date = models.DateField(null=True)
    currency = models.CharField(max_length=3)
    difference = amount_field()
    net, tax, gross = amount_field(), amount_field(), amount_field()
    proved_at = models.DateTimeField(null=True)
    read_at = models.DateTimeField(null=True)
    read_due_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workspace", "connection", "external_reference"], name="document_external_reference"
            ),
        ]
        indexes = [
            models.Index(fields=["workspace", "state"], name="document_state"),
            models.Index(fields=["workspace", "-id"], name="document_newest"),
            models.Index(
                fields=["workspace", "difference"], condition=~Q(difference=0) & Q(difference__isnull=False),
                name="document_differing",
            ),
            GinIndex(OpClass(Upper("books_number"), "gin_trgm_ops"), name="document_books_number_part"),
            # What was entered there by hand is told from what is ours.
            models.Index(fields=["connection", "books_id"], name="document_books_id"),
            # What is to be read again, among a million that are not.
            models.Index(fields=["connection", "read_due_at"], condition=Q(read_due_at__isnull=False),
                         name="document_read_due"),
            # What stands on an account of money, as it was read back: receipts and refunds by it, journals by their
            # lines.
            models.Index(
                F("connection"), KeyTextTransform("account", "record__document"),
                condition=Q(role__in=MONEY_ROLES), name="document_money_account",
            ),
            GinIndex(
                OpClass(KeyTransform("lines", "record__document"), "jsonb_path_ops"),
                condition=Q(role=Role.JOURNAL.value), name="document_journal_lines",
            ),
        ]  # fmt: skip

    @property
    def begun(self) -> bool:
        """Whether it may be at its end, as a draft or posted."""
        return bool(self.books_id or self.intended_at or self.posting_at)

    @cached_property
    def sources_in_order(self) -> list[DocumentSource]:
        """What each crossing has in it, its first one first; no statement where ``sources`` was fetched before."""
        return sorted(self.sources.all(), key=lambda share: share.pk)

    @property
    def is_final_invoice(self) -> bool:
        """Whether it is the invoice that deducts what was paid ahead."""
        return bool((self.planned or {}).get("final"))


class Crossing(WorkspaceOwned):
    """One source document on one bridge.

    The figures beside the snapshot are the source's own, for lists. ``parent_source_id`` is the document that it
    belongs to (a refund's order), ``posted_snapshot`` what the first of its documents was posted from: from then on it
    is decided that it crosses. On ``trial`` it goes ``tried_under`` a version of the rules. ``pinned`` is what planning
    depended on besides, by kind, kept so that planning again gives the same. ``decision`` is what a person decided for
    it alone: ``kind``, ``note`` and ``by``; ``written_back`` what the sales side was told of it. Since ``gone_at`` its
    origin has it no more.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="crossings")
    kind = models.CharField(max_length=30, default="orders")
    source_id = models.CharField(max_length=120)
    parent_source_id = models.CharField(max_length=120, default="", blank=True)
    number = models.CharField(max_length=120)
    snapshot = models.ForeignKey(Snapshot, on_delete=models.PROTECT, related_name="crossings")
    posted_snapshot = models.ForeignKey(Snapshot, on_delete=models.PROTECT, null=True, related_name="+")
    rulebook = models.ForeignKey(RulebookVersion, on_delete=models.PROTECT, null=True, related_name="+")
    master_data = models.ForeignKey(ReferenceLoad, on_delete=models.PROTECT, null=True, related_name="+")
    pinned = models.JSONField(default=dict)
    decision = models.JSONField(null=True)
    written_back = models.JSONField(default=list)
    planned = models.JSONField(null=True)
    findings = models.JSONField(default=list)
    state = models.CharField(max_length=10, choices=CrossingState, default=CrossingState.WAITING)
    cause = models.CharField(max_length=40, default="", blank=True)
    left_out_by = models.CharField(max_length=120, default="", blank=True)
    trouble = models.TextField(default="", blank=True)
    tries = models.PositiveIntegerField(default=0)
    next_try_at = models.DateTimeField(null=True)
    read_again_at = models.DateTimeField(null=True)
    trial = models.CharField(max_length=10, choices=Trial, default=Trial.NONE, blank=True)
    tried_under = models.ForeignKey(RulebookVersion, on_delete=models.PROTECT, null=True, related_name="+")
    moment = models.DateTimeField(null=True)
    business_date = models.DateField(null=True)
    gone_at = models.DateTimeField(null=True)
    currency = models.CharField(max_length=3, default="")
    net, tax, gross = amount_field(), amount_field(), amount_field()
    updated_at = models.DateTimeField(auto_now=True)
    documents = models.ManyToManyField(Document, through="DocumentSource", related_name="crossings")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "bridge", "kind", "source_id"], name="crossing_source"),
        ]
        indexes = [
            models.Index(fields=["workspace", "bridge", "business_date"], name="crossing_date"),
            # Of what is held, with the money behind each cause, the first page of a day tells all there is.
            models.Index(fields=["workspace", "state", "cause"], include=["currency", "gross"], name="crossing_state"),
            models.Index(fields=["workspace", "number", "id"], name="crossing_number"),
            models.Index(fields=["workspace", "bridge", "kind", "parent_source_id"], name="crossing_parent"),
            # Each default sort of the list, as it stands in ORDER BY.
            models.Index(F("workspace"), MOMENT_OR_FIRST.desc(), F("id").desc(), name="crossing_newest"),
            models.Index(
                F("workspace"), F("state"), MOMENT_OR_FIRST.desc(), F("id").desc(), name="crossing_state_newest"
            ),
            models.Index(
                F("workspace"), F("kind"), MOMENT_OR_FIRST.desc(), F("id").desc(), name="crossing_kind_newest"
            ),
            models.Index(
                F("workspace"), F("cause"), MOMENT_OR_FIRST.desc(), F("id").desc(), condition=~Q(cause=""),
                name="crossing_cause_newest",
            ),
            models.Index(F("workspace"), GROSS_OR_LEAST.desc(), F("id").desc(), name="crossing_largest"),
            # What the sweeper and the next reading look for, among a million that are done.
            models.Index(fields=["next_try_at"], condition=Q(state=CrossingState.WAITING), name="crossing_waiting"),
            models.Index(fields=["bridge", "kind", "read_again_at"], condition=Q(state__in=OPEN_STATES),
                         name="crossing_open"),
            # Payouts with money of no known order: looked for again and again, and few.
            models.Index(fields=["kind"], condition=Q(findings__contains=[{"id": IN_SUSPENSE}]),
                         name="crossing_in_suspense"),
            GinIndex(OpClass(Upper("number"), "gin_trgm_ops"), name="crossing_number_part"),
        ]  # fmt: skip

    @property
    def shares_in_order(self) -> list[DocumentSource]:
        """What it has in each document, as its plan has them; no statement where ``shares__document`` was fetched."""
        return sorted(self.shares.all(), key=lambda share: (share.part, share.pk))

    @property
    def documents_in_order(self) -> list[Document]:
        """Its documents as its plan has them; one statement, or none where ``shares__document`` was fetched before."""
        return [share.document for share in self.shares_in_order]

    @property
    def events_in_order(self) -> list[CrossingEvent]:
        """What happened to it, the first first."""
        return sorted(self.events.all(), key=lambda event: event.pk)


class DocumentSource(WorkspaceOwned):
    """What one crossing has in one document; the shares of a document's crossings add up to it.

    ``part`` is the document's place among those of its crossing.
    """

    document = models.ForeignKey(Document, on_delete=models.CASCADE, related_name="sources")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="shares")
    part = models.PositiveSmallIntegerField(default=1)
    net, tax, gross = amount_field(), amount_field(), amount_field()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["crossing", "document"], name="document_source_once")]


class CrossingEvent(WorkspaceOwned):
    """Something that happened to a crossing; never changed, and taken away only when its time is over."""

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="events")
    at = models.DateTimeField()
    kind = models.CharField(max_length=10, choices=EventKind)
    run = models.ForeignKey("carriage.Run", on_delete=models.SET_NULL, null=True, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    document = models.CharField(max_length=250, default="")
    detail = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["crossing", "id"], name="event_of_crossing")]
