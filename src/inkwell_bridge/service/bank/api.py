"""Bank accounts, their statements and lines over the API, and the matching of lines to what is awaited."""

from __future__ import annotations

import django_filters
from django.db.models import Count, Max, OuterRef, Prefetch, QuerySet, Subquery
from django.db.models.functions import Coalesce
from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.text import fit_line
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import of_our_time
from inkwell_bridge.service.bank import matching, reading
from inkwell_bridge.service.bank.awaited import awaited
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineMatch, LineState, Statement, StatementFile
from inkwell_bridge.service.bank.serializers import (
    BankAccountSerializer,
    BankLineSerializer,
    ChangedLinesSerializer,
    LinesRequestSerializer,
    MatchRequestSerializer,
    NewBankAccountSerializer,
    StatementFileRequestSerializer,
    StatementFileSerializer,
    TakenFileSerializer,
    UnmatchedSerializer,
)
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

LARGEST_FILE = 50_000_000


class AccountInUse(Refusal):
    """An account that has lines tells of them; it stays."""

    code = "account-in-use"
    hint = "What was matched stands in the books: the account stays as its record."


class OfBank(InWorkspace):
    """A view about the bank accounts of a workspace."""

    def accounts(self) -> QuerySet[BankAccount]:
        """All of them, with what lists show."""
        # Each by itself: joined, every line would stand there once for each statement.
        lines = BankLine.objects.filter(account=OuterRef("pk"), state=LineState.OPEN).order_by().values("account")
        days = Statement.objects.filter(account=OuterRef("pk")).order_by().values("account")
        rows = BankAccount.objects.select_related("books", "workspace").annotate(
            open_lines=Coalesce(Subquery(lines.annotate(number=Count("pk")).values("number")), 0),
            last_day=Subquery(days.annotate(last=Max("last_day")).values("last")),
        )
        return self.own(rows)

    def account(self) -> BankAccount:
        """The one that the address names."""
        found: BankAccount = self.named(self.accounts(), "bank account", self.kwargs["account"])
        return found


class AccountsView(OfBank, generics.ListAPIView[BankAccount]):
    """The bank accounts."""

    serializer_class = BankAccountSerializer
    needs = {"POST": Role.EDIT}
    sort = ("name", "slug")

    def get_queryset(self) -> QuerySet[BankAccount]:
        """By name."""
        return self.accounts()

    @extend_schema(
        operation_id="bank_accounts_add", request=NewBankAccountSerializer, responses={201: BankAccountSerializer}
    )
    def post(self, request: Request, workspace: str) -> Response:
        """Add one."""
        books = self.own(Connection.current.filter(side="books"))
        given = NewBankAccountSerializer(data=request.data, connections=books)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        for field in ({"slug": said["slug"]}, {"books": said["books"], "ledger_account": said["ledger_account"]}):
            if self.own(BankAccount.objects.filter(**field)).exists():
                raise serializers.ValidationError({list(field)[-1]: ["There is a bank account with this already."]})
        made = BankAccount.objects.create(workspace=self.workspace, **said)
        record(self.workspace, self.person, "bank-account.added", made.slug, number=made.number)
        return Response(BankAccountSerializer(self.accounts().get(pk=made.pk)).data, status=201)


class AccountView(OfBank):
    """One bank account."""

    needs = {"PATCH": Role.EDIT, "DELETE": Role.EDIT}

    @extend_schema(operation_id="bank_account_read", responses=BankAccountSerializer)
    def get(self, request: Request, workspace: str, account: str) -> Response:
        """What is known of it."""
        return Response(BankAccountSerializer(self.account()).data)

    @extend_schema(
        operation_id="bank_account_change", request=NewBankAccountSerializer, responses=BankAccountSerializer
    )
    def patch(self, request: Request, workspace: str, account: str) -> Response:
        """Give it another name or layout; what its lines were matched by stays."""
        found = self.account()
        given = NewBankAccountSerializer(data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        fixed = sorted(set(said) - {"name", "layout"})
        if fixed:
            raise serializers.ValidationError({fixed[0]: ["This stays as it was; remove the account and add another."]})
        for name, value in said.items():
            setattr(found, name, value)
        found.save(update_fields=list(said))
        record(self.workspace, self.person, "bank-account.changed", found.slug, changed=", ".join(said))
        return Response(BankAccountSerializer(found).data)

    @extend_schema(operation_id="bank_account_remove", responses={204: None})
    def delete(self, request: Request, workspace: str, account: str) -> HttpResponse:
        """Remove one without lines."""
        found = self.account()
        if found.lines.exists():
            raise AccountInUse(f"{found.name} has lines of {found.last_day} and before.")  # type: ignore[attr-defined]
        record(self.workspace, self.person, "bank-account.removed", found.slug)
        found.delete()
        return HttpResponse(status=204)


class StatementsView(OfBank, generics.ListAPIView[StatementFile]):
    """The files of an account."""

    serializer_class = StatementFileSerializer
    parser_classes = (MultiPartParser,)

    def get_queryset(self) -> QuerySet[StatementFile]:
        """The newest first."""
        if getattr(self, "swagger_fake_view", False):
            return StatementFile.objects.none()
        return StatementFile.objects.filter(account=self.account()).select_related("read_by")

    @extend_schema(
        operation_id="bank_statements_take", request=StatementFileRequestSerializer, responses=TakenFileSerializer
    )
    def post(self, request: Request, workspace: str, account: str) -> Response:
        """Take a file, all of it or nothing; what is sure is matched at once."""
        given = StatementFileRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file, found = given.validated_data["file"], self.account()
        if file.size > LARGEST_FILE:
            raise reading.StatementRefused(f"At most {LARGEST_FILE:,} bytes are read; this file has {file.size:,}.")
        taken, again = reading.take(found, fit_line(file.name, 200), file, self.person)
        notes = list(taken.notes)
        if again:
            notes.append(f"This file was taken before, on {taken.read_at:%Y-%m-%d}: nothing of it is new.")
        told = {"name": taken.name, "lines": taken.lines, "new_lines": 0 if again else taken.new_lines,
                "matched": matching.match_sure(found), "notes": notes}  # fmt: skip
        return Response(TakenFileSerializer(told).data)


class LineFilter(django_filters.FilterSet):
    """By state, days and direction."""

    state = django_filters.ChoiceFilter(choices=LineState.choices)
    first_day = django_filters.DateFilter("booked_on", "gte", validators=[of_our_time])
    last_day = django_filters.DateFilter("booked_on", "lte", validators=[of_our_time])

    class Meta:
        model = BankLine
        fields = ("state",)


class LinesView(OfBank, generics.ListAPIView[BankLine]):
    """The lines of an account."""

    serializer_class = BankLineSerializer
    filterset_class = LineFilter
    sort = ("booked_on", "id")

    def get_queryset(self) -> QuerySet[BankLine]:
        """The oldest first: what waits longest stands on top."""
        if getattr(self, "swagger_fake_view", False):
            return BankLine.objects.none()
        told = LineMatch.objects.select_related("crossing", "made_by").defer("crossing__planned")
        rows = BankLine.objects.filter(account=self.account()).select_related("account", "decided_by")
        return rows.prefetch_related(Prefetch("matches", told))

    @extend_schema(operation_id="bank_lines_mark", request=LinesRequestSerializer, responses=ChangedLinesSerializer)
    def patch(self, request: Request, workspace: str, account: str) -> Response:
        """Say that some are nothing awaited, and why; or look at them again. Those that are matched stay so."""
        given = LinesRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said, found = given.validated_data, self.account()
        if said["state"] == LineState.OPEN:
            changed = matching.open_again(found, said["lines"], self.person)
        else:
            changed = matching.exclude(found, said["lines"], self.person, said["note"].strip())
        return Response(ChangedLinesSerializer({"changed": changed}).data)


class UnmatchedView(OfBank):
    """What is awaited on an account."""

    @extend_schema(operation_id="bank_unmatched_read", responses=UnmatchedSerializer)
    def get(self, request: Request, workspace: str, account: str) -> Response:
        """The payouts that have not arrived and the money that the bank tells of, the oldest of each kind first, and
        which lines may be which of them."""
        found = self.account()
        there = awaited(found)
        told = {"awaited": there, "proposals": matching.proposals(found, there)}
        return Response(UnmatchedSerializer(told).data)


class MatchesView(OfBank):
    """Matching by hand."""

    @extend_schema(
        operation_id="bank_matches_make", request=MatchRequestSerializer, responses=BankLineSerializer(many=True)
    )
    def post(self, request: Request, workspace: str, account: str) -> Response:
        """Match lines to what is awaited: payouts to the same sum, money of buyers also in parts; answers the lines."""
        given = MatchRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said, found = given.validated_data, self.account()
        rows = matching.match_by_hand(found, said["lines"], said["crossings"], self.person, said["note"].strip())
        return Response(BankLineSerializer(_shown(found, [one.pk for one in rows]), many=True).data)


class LineMatchView(OfBank):
    """What one line was matched to."""

    @extend_schema(operation_id="bank_match_take_back", responses=BankLineSerializer)
    def delete(self, request: Request, workspace: str, account: str, line: int) -> Response:
        """Take it back: the line is open again, and what was posted of it is posted the other way round."""
        found = self.account()
        row: BankLine = self.numbered(BankLine.objects.filter(account=found), "line", line)
        matching.take_back(found, row, self.person)
        return Response(BankLineSerializer(_shown(found, [row.pk])[0]).data)


def _shown(account: BankAccount, keys: list[int]) -> QuerySet[BankLine]:
    rows = BankLine.objects.filter(account=account, pk__in=keys).select_related("account", "decided_by")
    return rows.prefetch_related("matches__crossing", "matches__made_by").order_by("booked_on", "id")
