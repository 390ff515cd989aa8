"""What was fetched, what was planned, what was posted, the proof; and what happened on the way."""

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
from inkwell_bridge.service.carriage.states import (
    ACTIVE_RUN,
    CrossingState,
    DocumentState,
    EntryOutcome,
    EventKind,
    Grain,
    RunPurpose,
    RunState,
    Side,
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


def amount_field(*, null: bool = True) -> models.DecimalField[models.DecimalField[object, object], object]:
    """An amount in the currency beside it, with room for the four digits that some have (ISO 4217)."""
    return models.DecimalField(max_digits=20, decimal_places=4, null=null)


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


class Run(WorkspaceOwned):
    """One going-over of a bridge: of its lanes that are on, or of ``lanes``; of ``numbers``, those orders alone; of the
    documents of ``first_day`` to ``last_day`` alone; or ``again`` of what came to ``outcomes`` in an earlier run.
    ``unchanged`` counts what it had no work with; all else it touched has an entry. ``rulebook`` is the version that a
    trial is carried under. ``trouble`` is why it failed, or what keeps it from reading until ``next_try_at``."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="runs")
    purpose = models.CharField(max_length=10, choices=RunPurpose, default=RunPurpose.CARRY)
    state = models.CharField(max_length=10, choices=RunState, default=RunState.READING)
    numbers = models.JSONField(default=list)
    lanes = models.JSONField(default=list)
    first_day = models.DateField(null=True)
    last_day = models.DateField(null=True)
    again = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    outcomes = models.JSONField(default=list)
    rulebook = models.ForeignKey(RulebookVersion, on_delete=models.PROTECT, null=True, related_name="+")
    started_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    by_timetable = models.BooleanField(default=False)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    trouble = models.TextField(default="")
    next_try_at = models.DateTimeField(null=True)
    unchanged = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bridge"], condition=Q(state__in=ACTIVE_RUN), name="run_one_at_a_time"),
        ]
        indexes = [
            models.Index(fields=["workspace", "-id"], name="run_newest"),
            models.Index(fields=["bridge", "-id"], name="run_of_bridge"),
        ]


class Document(WorkspaceOwned):
    """One document on its way into an end, and there.

    ``external_reference`` is our name for it at that end, the same for every attempt; nobody reads anything out of it.
    ``intended_at`` is written before the call that makes a draft goes out, and stays until its outcome
    is known. ``settled`` is the planned document with the books' own taxes and the rounding line, where these make it
    another; ``reasons`` why it is not as planned, ``record`` what was read back. ``snapshot`` is what it was made from.
    ``amendment`` counts the changes after its source was posted first: 0 of what was posted then, 1 of the documents
    that made the first change good, and so on.
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
    record = models.JSONField(null=True)
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
    it alone: ``kind``, ``note`` and ``by``; ``written_back`` what the sales side was told of it.
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
            models.Index(fields=["workspace", "state", "cause"], name="crossing_state"),
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


class RunEntry(WorkspaceOwned):
    """What one run has to do with one source document, and what came of it."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="entries")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="entries")
    outcome = models.CharField(max_length=10, choices=EntryOutcome, default=EntryOutcome.PENDING)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "crossing"], name="entry_crossing")]
        indexes = [models.Index(fields=["run", "outcome"], name="entry_outcome")]


class CrossingEvent(WorkspaceOwned):
    """Something that happened to a crossing; never changed, and taken away only when its time is over."""

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="events")
    at = models.DateTimeField()
    kind = models.CharField(max_length=10, choices=EventKind)
    run = models.ForeignKey(Run, on_delete=models.SET_NULL, null=True, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    document = models.CharField(max_length=250, default="")
    detail = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["crossing", "id"], name="event_of_crossing")]


class Figure(WorkspaceOwned):
    """One amount for totals; never changed: when what it says changes, what it said is taken off by further rows.

    ``date`` is the business day of its own side: the source's day, or the date of the document in the books. A total
    of any period is one grouped sum. ``role`` is the kind of a source document, the role of a document in the books,
    or the reason of what reconciles. Units: in ``currency``; what came back counts against.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="+")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="figures")
    side = models.CharField(max_length=12, choices=Side)
    grain = models.CharField(max_length=10, choices=Grain)
    role = models.CharField(max_length=30)
    date = models.DateField()
    currency = models.CharField(max_length=3)
    account = models.CharField(max_length=120, default="")
    tax_code = models.CharField(max_length=120, default="")
    tender = models.CharField(max_length=30, default="")
    count = models.IntegerField(default=0)
    net = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    tax = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    gross = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    written_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "date", "side", "grain"], name="figure_period")]


class OpenBalance(WorkspaceOwned):
    """What is left open of an order in the books, its refunds counted; kept where the rules give small ones up.

    ``since`` is the day of the last document. Units: ``amount`` in ``currency``; below zero it is owed to the customer.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="+")
    crossing = models.OneToOneField(Crossing, on_delete=models.CASCADE, related_name="open_balance")
    amount = models.DecimalField(max_digits=20, decimal_places=4)
    currency = models.CharField(max_length=3)
    since = models.DateField()

    class Meta:
        indexes = [models.Index(fields=["bridge", "since"], name="open_balance_oldest")]


class MoneyMovement(WorkspaceOwned):
    """One transaction of a provider, whoever told of it first: made once, found by all others. Of what was paid out,
    the part that each payout sent on its way.

    ``account`` is the provider's account where the sales side names one. ``crossing`` told of it, ``document`` is what
    posted it. Units: ``amount`` in ``currency``, as moved: negative where it went back.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="movements")
    account = models.CharField(max_length=120, default="")
    transaction = models.CharField(max_length=120)
    kind = models.CharField(max_length=20)
    tender = models.CharField(max_length=30, default="")
    amount = amount_field()
    currency = models.CharField(max_length=3)
    moved_at = models.DateTimeField(null=True)
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="movements")
    document = models.ForeignKey(Document, on_delete=models.SET_NULL, null=True, related_name="movements")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workspace", "connection", "account", "transaction", "kind"],
                condition=~Q(kind="paid out"), name="movement_transaction",
            ),
            # A charge may be paid out in parts, by several payouts.
            models.UniqueConstraint(
                fields=["crossing", "transaction"], condition=Q(kind="paid out"), name="movement_paid_out"
            ),
        ]  # fmt: skip
        # Shop and provider are two connections, and know the same money by its transaction alone.
        indexes = [models.Index(fields=["workspace", "transaction"], name="movement_by_transaction")]


class Exchange(WorkspaceOwned):
    """One call to an end about a document: what was sent, what came back.

    It names the document by its reference, for a document that is made anew is another row; what is told to the sales
    side goes by the first of them. Personal data is left out. ``milliseconds`` is how long it took, where that was
    measured.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    external_reference = models.CharField(max_length=250)
    at = models.DateTimeField(auto_now_add=True)
    call = models.CharField(max_length=60)
    sent = models.JSONField(null=True)
    answered = models.JSONField(null=True)
    failure = models.TextField(default="")
    milliseconds = models.PositiveIntegerField(null=True)

    class Meta:
        indexes = [
            models.Index(fields=["connection", "external_reference"], name="exchange_of_document"),
            models.Index(fields=["at"], name="exchange_age"),
        ]


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
