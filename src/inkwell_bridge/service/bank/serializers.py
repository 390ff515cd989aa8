"""What calls about bank accounts take and answer."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from inkwell_bridge.core.bank import TableLayout
from inkwell_bridge.core.bank.statement import as_number
from inkwell_bridge.core.errors import DocumentInvalid, NotExact
from inkwell_bridge.core.money import digits, exact
from inkwell_bridge.service.api.fields import BySlug, Strict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineMatch, LineState, StatementFile
from inkwell_bridge.service.connections.models import Connection


class BankAccountSerializer(ReadOnlySerializer[BankAccount]):
    """A bank account: which account of the books it is, and how far its statements have come."""

    books = serializers.CharField(source="books.slug")
    layout = serializers.JSONField()
    open_lines = serializers.IntegerField()
    last_day = serializers.DateField(allow_null=True)

    class Meta:
        model = BankAccount
        fields = ("slug", "name", "books", "ledger_account", "number", "currency", "layout", "open_lines", "last_day")


class NewBankAccountSerializer(Strict, serializers.Serializer[Any]):
    """A bank account to keep."""

    slug = serializers.RegexField(r"^[a-z0-9][-a-z0-9]*\Z", max_length=60)
    name = serializers.CharField(max_length=200)
    books = BySlug(queryset=Connection.objects.none())
    ledger_account = serializers.CharField(max_length=120, help_text="The account of the books that it is.")
    number = serializers.CharField(max_length=60, help_text="As the bank writes it: an IBAN, or its own.")
    currency = serializers.RegexField(r"^[A-Z]{3}\Z", help_text="ISO 4217")
    layout = serializers.JSONField(
        required=False, allow_null=True, help_text="How its statements as tables are laid out."
    )

    def __init__(self, *args: Any, connections: QuerySet[Connection] | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if connections is not None:
            self.fields["books"].queryset = connections  # type: ignore[attr-defined]

    def validate_number(self, number: str) -> str:
        """Some letters and digits."""
        if len(as_number(number)) < 4:
            raise serializers.ValidationError("Expected the number of an account, of four letters and digits at least.")
        return number

    def validate_currency(self, currency: str) -> str:
        """One whose minor units are known."""
        try:
            digits(currency)
        except NotExact as error:
            raise serializers.ValidationError(str(error)) from error
        return currency

    def validate_layout(self, layout: Any) -> Any:
        """A layout that can be read by."""
        if layout is None:
            return None
        try:
            return TableLayout.read(layout).as_json()
        except DocumentInvalid as error:
            raise serializers.ValidationError(f"{error.at or 'The layout'}: {error.expected}") from error


class StatementFileSerializer(ReadOnlySerializer[StatementFile]):
    """A file of statements: what was taken of it, or why it was refused."""

    read_by = serializers.CharField(source="read_by.email", default="", read_only=True)
    notes = serializers.ListField(child=serializers.CharField())

    class Meta:
        model = StatementFile
        fields = ("id", "name", "read_at", "read_by", "problem", "notes", "lines", "new_lines")


class TakenFileSerializer(serializers.Serializer[Any]):
    """What became of a file: so many of its lines are new, and so many of the open ones are matched by now."""

    name = serializers.CharField()
    lines = serializers.IntegerField()
    new_lines = serializers.IntegerField()
    matched = serializers.IntegerField()
    notes = serializers.ListField(child=serializers.CharField())


class StatementFileRequestSerializer(serializers.Serializer[Any]):
    """A bank statement as a file: ISO 20022 camt.053 or camt.054, or a table as the account's layout describes it."""

    file = serializers.FileField(max_length=200)


class LineMatchSerializer(ReadOnlySerializer[LineMatch]):
    """What a line is, or a part of it: a payout, money of an order or of a refund, or of an invoice of the books."""

    crossing = serializers.IntegerField(source="crossing_id")
    kind = serializers.CharField(source="crossing.kind")
    number = serializers.CharField(source="crossing.number")
    amount = serializers.SerializerMethodField()
    made_by = serializers.CharField(source="made_by.email", default="", read_only=True)

    class Meta:
        model = LineMatch
        fields = ("crossing", "kind", "number", "amount", "by", "note", "made_by", "made_at")

    @extend_schema_field(serializers.CharField())
    def get_amount(self, row: LineMatch) -> str:
        """As text, so that nothing rounds it."""
        return f"{exact(row.amount, row.crossing.currency)}"


class BankLineSerializer(ReadOnlySerializer[BankLine]):
    """A line of the bank's, and what it is."""

    amount = serializers.SerializerMethodField()
    currency = serializers.CharField(source="account.currency")
    matches = LineMatchSerializer(many=True)
    decided_by = serializers.CharField(source="decided_by.email", default="", read_only=True)

    class Meta:
        model = BankLine
        fields = ("id", "booked_on", "value_on", "amount", "currency", "reference", "end_to_end", "name", "text",
                  "state", "note", "decided_by", "matches")  # fmt: skip

    @extend_schema_field(serializers.CharField())
    def get_amount(self, row: BankLine) -> str:
        """As text, so that nothing rounds it."""
        return f"{exact(row.amount, row.account.currency)}"


class AwaitedSerializer(serializers.Serializer[Any]):
    """A payout that should arrive on the account, or an order, a refund or an invoice whose money the bank tells of:
    what is still to come of it (below zero: to go out), and since when. ``names`` are what a line may call it."""

    crossing = serializers.IntegerField(source="of.pk")
    kind = serializers.CharField(source="of.kind")
    bridge = serializers.CharField(source="of.bridge.slug")
    number = serializers.CharField()
    names = serializers.ListField(child=serializers.CharField())
    due_on = serializers.DateField()
    days_late = serializers.IntegerField()
    amount = serializers.CharField()
    currency = serializers.CharField(source="of.currency")
    on_account = serializers.CharField()


class MatchProposalSerializer(serializers.Serializer[Any]):
    """Lines and what is awaited that may belong together: by an amount alone, or named with another amount."""

    lines = serializers.ListField(child=serializers.IntegerField())
    crossings = serializers.ListField(child=serializers.IntegerField(), source="awaited")
    by = serializers.CharField()
    difference = serializers.CharField()


class UnmatchedSerializer(serializers.Serializer[Any]):
    """What is awaited, and what may be it."""

    awaited = AwaitedSerializer(many=True)
    proposals = MatchProposalSerializer(many=True)


class MatchRequestSerializer(Strict, serializers.Serializer[Any]):
    """Lines and what is awaited that belong together: one of one side, and one or several of the other."""

    lines = serializers.ListField(child=serializers.IntegerField(min_value=1), min_length=1, max_length=100)
    crossings = serializers.ListField(child=serializers.IntegerField(min_value=1), min_length=1, max_length=100)
    note = serializers.CharField(max_length=500, default="", allow_blank=True)


class LinesRequestSerializer(Strict, serializers.Serializer[Any]):
    """Lines that are, or are not, to be looked at; with ``note``, why."""

    lines = serializers.ListField(child=serializers.IntegerField(min_value=1), min_length=1, max_length=1000)
    state = serializers.ChoiceField(choices=[LineState.OPEN.value, LineState.EXCLUDED.value])
    note = serializers.CharField(max_length=500, default="", allow_blank=True)

    def validate(self, given: dict[str, Any]) -> dict[str, Any]:
        """What nobody need look at has a reason."""
        if given["state"] == LineState.EXCLUDED and not given["note"].strip():
            raise serializers.ValidationError({"note": ["Say what these lines are."]})
        return given


class ChangedLinesSerializer(serializers.Serializer[Any]):
    """How many lines were changed."""

    changed = serializers.IntegerField()
