"""Bank accounts, the files that tell of them, their statements and lines, and what the lines are."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.carriage.models import Crossing, amount_field
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned, slug_field


class LineState(models.TextChoices):
    """What is known of a line."""

    OPEN = "open", "Open"
    MATCHED = "matched", "Matched"
    EXCLUDED = "excluded", "Excluded"


class MatchedBy(models.TextChoices):
    """How a line was matched."""

    REFERENCE = "reference", "By what it says"
    AMOUNT = "amount", "By its amount"
    HAND = "hand", "By hand"


class BankAccount(WorkspaceOwned):
    """An account at a bank, and the account of the books that it is.

    ``number`` is as the bank writes it (an IBAN, or its own). ``layout`` describes its statements as tables, where it
    gives such.
    """

    slug = slug_field()
    name = models.CharField(max_length=200)
    books = models.ForeignKey(Connection, on_delete=models.PROTECT, related_name="bank_accounts")
    ledger_account = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    currency = models.CharField(max_length=3)
    layout = models.JSONField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "slug"], name="bank_account_slug"),
            models.UniqueConstraint(fields=["workspace", "books", "ledger_account"], name="bank_account_of_ledger"),
        ]


class StatementFile(WorkspaceOwned):
    """A file of statements that somebody gave us, taken whole, or refused whole: then ``problem`` says why.

    ``notes`` are what there is to say of one that was taken. Known by its ``digest``, the same file is taken once.
    """

    account = models.ForeignKey(BankAccount, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=200)
    digest = models.CharField(max_length=64)
    read_at = models.DateTimeField()
    read_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    problem = models.TextField(default="", blank=True)
    notes = models.JSONField(default=list)
    lines = models.PositiveIntegerField(default=0)
    new_lines = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["account", "digest"], condition=models.Q(problem=""), name="statement_file_taken_once"
            )
        ]
        indexes = [models.Index(fields=["account", "-id"], name="statement_file_newest")]


class Statement(WorkspaceOwned):
    """The days of an account that a file covers. Without ``complete`` it tells of single lines, and has no balances.

    ``whole_days`` tells that it has all lines of its first and last day too; a table may have been made at noon.
    """

    account = models.ForeignKey(BankAccount, on_delete=models.CASCADE, related_name="statements")
    file = models.ForeignKey(StatementFile, on_delete=models.CASCADE, related_name="statements")
    number = models.CharField(max_length=120, default="", blank=True)
    first_day = models.DateField(null=True)
    last_day = models.DateField(null=True)
    opening, closing = amount_field(), amount_field()
    complete = models.BooleanField(default=True)
    whole_days = models.BooleanField(default=True)

    class Meta:
        indexes = [models.Index(fields=["account", "first_day", "last_day"], name="statement_days")]


class BankLine(WorkspaceOwned):
    """One line of the bank's, however many statements have it; ``statement`` is the first that had.

    It is known by ``digest``, of all that it says, and by how many just like it came before on its day
    (``occurrence``). ``note`` is why a person says that it is nothing awaited. Of a line of long ago ``name`` and
    ``text`` are blank.
    """

    account = models.ForeignKey(BankAccount, on_delete=models.CASCADE, related_name="lines")
    statement = models.ForeignKey(Statement, on_delete=models.CASCADE, related_name="lines")
    line = models.PositiveIntegerField()
    booked_on = models.DateField()
    value_on = models.DateField(null=True)
    amount = amount_field(null=False)
    reference = models.CharField(max_length=120, default="", blank=True)
    end_to_end = models.CharField(max_length=120, default="", blank=True)
    name = models.CharField(max_length=200, default="", blank=True)
    text = models.CharField(max_length=1000, default="", blank=True)
    digest = models.CharField(max_length=32)
    occurrence = models.PositiveIntegerField(default=1)
    state = models.CharField(max_length=10, choices=LineState, default=LineState.OPEN)
    note = models.CharField(max_length=500, default="", blank=True)
    decided_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["account", "digest", "occurrence"], name="bank_line_once"),
        ]
        indexes = [
            models.Index(fields=["account", "state", "booked_on", "id"], name="bank_line_oldest"),
            models.Index(fields=["account", "booked_on"], name="bank_line_days"),
            # What upkeep looks for: words of lines that nobody needs any more.
            models.Index(
                fields=["booked_on"],
                condition=~models.Q(state="open") & (~models.Q(name="") | ~models.Q(text="")),
                name="bank_line_with_words",
            ),
        ]


class LineMatch(WorkspaceOwned):
    """So much of a line is what ``crossing`` is of: a payout, money of an order or of a refund, or an invoice that the
    books told of. Units: ``amount`` in the account's currency, with the sign of both."""

    line = models.ForeignKey(BankLine, on_delete=models.CASCADE, related_name="matches")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="bank_matches")
    amount = amount_field(null=False)
    by = models.CharField(max_length=10, choices=MatchedBy)
    note = models.CharField(max_length=500, default="", blank=True)
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "crossing"], name="line_match_once")]
        indexes = [models.Index(fields=["crossing"], name="line_match_of_crossing")]


class MatchTakenBack(WorkspaceOwned):
    """A person said that this line is no money of that, after all: it is not matched to it again but by hand."""

    line = models.ForeignKey(BankLine, on_delete=models.CASCADE, related_name="taken_back")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "crossing"], name="match_taken_back_once")]
