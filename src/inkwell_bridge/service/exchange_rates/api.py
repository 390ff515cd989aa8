"""The table of a company's daily rates: seen, entered, loaded by file."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.exchange_rates import ExchangeRate, RateFileInvalid, read_rates
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict, of_our_time
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.exchange_rates import table
from inkwell_bridge.service.exchange_rates.models import DailyRate
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.refusal import Refusal

LARGEST_FILE = 2_000_000


class UnreadableRates(Refusal):
    """A file of rates that cannot be taken; nothing of it was."""

    code = "rates-unreadable"
    hint = "A table with the columns day (2026-10-05), currency (ISO 4217) and rate, separated by commas, as UTF-8."


class DailyRateSerializer(ReadOnlySerializer[DailyRate]):
    """What one unit of a currency was worth on a day, in the company's own."""

    rate = serializers.SerializerMethodField()
    entered_by = serializers.CharField(source="entered_by.email", default="", read_only=True)

    class Meta:
        model = DailyRate
        fields = ("currency", "day", "rate", "source", "entered_by", "entered_at")

    @extend_schema_field(serializers.CharField())
    def get_rate(self, row: DailyRate) -> str:
        """As text, so that nothing rounds it, without empty digits."""
        return f"{table.shortest(row.rate):f}"


class NewRateSerializer(Strict, serializers.Serializer[Any]):
    """A rate to keep."""

    currency = serializers.RegexField(r"^[A-Z]{3}$", help_text="ISO 4217")
    day = serializers.DateField(validators=[of_our_time])
    rate = serializers.DecimalField(max_digits=22, decimal_places=12, min_value=Decimal("0.000000000001"))


class NewRatesSerializer(Strict, serializers.Serializer[Any]):
    """Rates to keep; one of a day that has one takes its place."""

    rates = NewRateSerializer(many=True, min_length=1, max_length=1000)
    source = serializers.CharField(max_length=100, default="", allow_blank=True, help_text="Whose rates they are.")


class RateFileSerializer(serializers.Serializer[Any]):
    """A file of rates (RFC 4180): its first line names the columns day, currency and rate."""

    file = serializers.FileField(max_length=200)
    source = serializers.CharField(max_length=100, default="", allow_blank=True, help_text="Whose rates they are.")


class KeptRatesSerializer(serializers.Serializer[Any]):
    """What became of rates: so many are new, so many took another's place, the others stood there already."""

    added = serializers.IntegerField()
    corrected = serializers.IntegerField()
    unchanged = serializers.IntegerField()


class RateFilter(django_filters.FilterSet):
    """By currency and days."""

    currency = django_filters.CharFilter()
    first_day = django_filters.DateFilter("day", "gte")
    last_day = django_filters.DateFilter("day", "lte")

    class Meta:
        model = DailyRate
        fields = ("currency",)


class OfCompany(InWorkspace):
    """A view about the table of one company."""

    def company(self) -> Company:
        """The company that the address names."""
        return get_object_or_404(self.own(Company.objects.select_related("workspace")), slug=self.kwargs["company"])

    def kept(self, company: Company, rates: list[ExchangeRate]) -> Response:
        """Keep them, and say what became of them."""
        own = [one for one in rates if one.currency == company.currency]
        if own:
            text = f"{own[0].currency} is the company's own currency: it has no rate to itself."
            raise serializers.ValidationError({"rates": [text]})
        added, corrected = table.keep(company, rates, self.person)
        told = {"added": added, "corrected": corrected, "unchanged": len(rates) - added - corrected}
        return Response(KeptRatesSerializer(told).data)


class DailyRatesView(OfCompany, generics.ListAPIView[DailyRate]):
    """The daily rates of a company."""

    serializer_class = DailyRateSerializer
    filterset_class = RateFilter
    needs = {"PUT": Role.EDIT}
    sort = ("-day", "currency")

    def get_queryset(self) -> QuerySet[DailyRate]:
        """Of this company, the newest first."""
        if getattr(self, "swagger_fake_view", False):
            return DailyRate.objects.none()
        return self.own(DailyRate.objects.filter(company=self.company()).select_related("entered_by"))

    @extend_schema(operation_id="exchange_rates_keep", request=NewRatesSerializer, responses=KeptRatesSerializer)
    def put(self, request: Request, workspace: str, company: str) -> Response:
        """Keep some: one of a day that has one takes its place. What waited for a rate goes on by itself."""
        given = NewRatesSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, source = self.company(), given.validated_data["source"]
        made = []
        for place, one in enumerate(given.validated_data["rates"]):
            try:
                made.append(ExchangeRate.read({**one, "own": found.currency, "source": source}))
            except DocumentInvalid as error:
                raise serializers.ValidationError({"rates": {str(place): [error.expected]}}) from error
        return self.kept(found, made)


class RateFileView(OfCompany):
    """Rates by file."""

    parser_classes = (MultiPartParser,)
    needs = {"POST": Role.EDIT}

    @extend_schema(operation_id="exchange_rates_load", request=RateFileSerializer, responses=KeptRatesSerializer)
    def post(self, request: Request, workspace: str, company: str) -> Response:
        """Load a file, all of it or nothing."""
        given = RateFileSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file, found = given.validated_data["file"], self.company()
        if file.size > LARGEST_FILE:
            raise UnreadableRates(f"At most {LARGEST_FILE:,} bytes are read; this file has {file.size:,}.")
        try:
            text = file.read().decode("utf-8")
            rates = read_rates(text, own=found.currency, source=given.validated_data["source"])
        except UnicodeDecodeError as error:
            raise UnreadableRates("The file is not UTF-8.") from error
        except RateFileInvalid as error:
            raise UnreadableRates(f"Nothing was taken of the file: {error}.") from error
        return self.kept(found, rates)


class DailyRateView(OfCompany):
    """One rate."""

    needs = {"DELETE": Role.EDIT}

    @extend_schema(operation_id="exchange_rates_remove", responses={204: None})
    def delete(self, request: Request, workspace: str, company: str, currency: str, day: str) -> Response:
        """Take it out of the table; what was posted at it stays."""
        given = serializers.DateField().run_validation(day)
        rows = self.own(DailyRate.objects.select_related("company__workspace").filter(company=self.company()))
        table.remove(get_object_or_404(rows, currency=currency, day=given), self.person)
        return Response(status=204)
