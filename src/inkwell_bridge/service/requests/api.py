"""Requests for payment over the API."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import QuerySet
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.rulebook.requests import RequestRules
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import BySlug, Strict
from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.api.problem import MEDIA_TYPE
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.bridges.rules import all_in_force
from inkwell_bridge.service.carriage import payment_links
from inkwell_bridge.service.carriage.amounts_api import AmountField
from inkwell_bridge.service.carriage.crossings_filter import workspace_of
from inkwell_bridge.service.carriage.models import PaymentLink, RequestState
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.requests import deciding

_ROWS = PaymentLink.objects.select_related("crossing__bridge", "wished_by")


class _InItsCurrency(AmountField):
    """An amount of a request, in the currency of its invoice."""

    def get_attribute(self, instance: PaymentLink) -> tuple[Decimal, str] | None:
        """See ``AmountField``."""
        amount, currency = getattr(instance, str(self.source)), instance.crossing.currency
        return (amount, currency) if amount is not None and currency else None


class PaymentRequestSerializer(ReadOnlySerializer[PaymentLink]):
    """A request for payment; ``id`` is its number here, ``crossing`` the document of its invoice, ``request`` and
    ``provider_link`` what it is at the provider. Its context has the ``rules`` of requests by bridge."""

    bridge = serializers.CharField(source="crossing.bridge.slug", read_only=True)
    invoice = serializers.CharField(source="crossing.number", read_only=True)
    invoiced_on = serializers.DateField(source="crossing.business_date", read_only=True, allow_null=True)
    currency = serializers.CharField(source="crossing.currency", read_only=True)
    standing = serializers.ChoiceField(
        source="state", choices=RequestState.choices, read_only=True, help_text="How it stands with the buyer."
    )
    crossing_state = serializers.CharField(source="crossing.state", read_only=True)
    cause = serializers.CharField(source="crossing.cause", read_only=True)
    amount, paid = _InItsCurrency(), _InItsCurrency()
    link = serializers.SerializerMethodField()
    wished_by = serializers.CharField(source="wished_by.email", default="", read_only=True)

    class Meta:
        model = PaymentLink
        fields = ("id", "crossing", "bridge", "invoice", "invoiced_on", "currency", "standing", "amount", "paid",
                  "crossing_state", "cause", "link", "request", "provider_link", "wish", "wished_by", "wished_at",
                  "note", "made_at", "opened", "last_opened_at")  # fmt: skip

    @extend_schema_field(OpenApiTypes.STR)
    def get_link(self, row: PaymentLink) -> str:
        """The link that the buyer is given, by the rules of its bridge."""
        return payment_links.address_of(row, self.context["rules"].get(row.crossing.bridge_id))


class RequestFilter(django_filters.FilterSet):
    """What the list can be narrowed to."""

    bridge = django_filters.CharFilter(method="over_bridge")
    standing = django_filters.ChoiceFilter(field_name="state", choices=RequestState.choices)
    invoice = django_filters.CharFilter(field_name="crossing__number")

    class Meta:
        model = PaymentLink
        fields: list[str] = []

    def over_bridge(self, rows: QuerySet[PaymentLink], _: str, value: str) -> QuerySet[PaymentLink]:
        """Those of a bridge that there is."""
        return rows.filter(crossing__bridge__in=named(workspace_of(self), value))


class MakeRequestSerializer(Strict):
    """The invoice to ask for, by its number in the books of a bridge."""

    bridge = BySlug(queryset=Bridge.current.none())
    invoice = serializers.CharField(max_length=120)

    def __init__(self, *args: Any, bridges: Any = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if bridges is not None:
            self.fields["bridge"].queryset = bridges  # type: ignore[attr-defined]


class CancelRequestSerializer(Strict):
    """Why it is cancelled."""

    note = serializers.CharField(max_length=500, required=False, default="", allow_blank=True)


class RequestsView(InWorkspace, generics.ListAPIView[PaymentLink]):
    """Requests for payment, newest first; and making one by hand."""

    serializer_class = PaymentRequestSerializer
    filterset_class = RequestFilter
    needs = {"POST": Role.OPERATE}

    def get_queryset(self) -> QuerySet[PaymentLink]:
        """Of this workspace."""
        return self.own(_ROWS)

    def get_serializer_context(self) -> dict[str, Any]:
        """With the rules of every bridge there is, or was; two statements."""
        return {**super().get_serializer_context(), "rules": _rules_of(self.own(Bridge.objects.all()))}

    @extend_schema(
        operation_id="requests_make",
        request=MakeRequestSerializer,
        responses={
            202: PaymentRequestSerializer,
            (409, MEDIA_TYPE): OpenApiResponse(OpenApiTypes.OBJECT, description="The bridge cannot ask for payment."),
        },
    )
    @asks_outside
    def post(self, request: Request, workspace: str) -> Response:
        """Ask for an invoice by its number, whatever the conditions of the rules say; one that was cancelled is taken
        up again."""
        bridges = self.own(
            Bridge.current.select_related("workspace", "source__workspace", "books__workspace", "company")
        )
        given = MakeRequestSerializer(data=request.data, bridges=bridges)
        given.is_valid(raise_exception=True)
        bridge, number = given.validated_data["bridge"], given.validated_data["invoice"]
        try:
            link = deciding.make(bridge, number, self.person)
        except Refused as error:
            if error.why == "not found":
                raise serializers.ValidationError(
                    {"invoice": [f"{bridge.books.name} has no posted invoice {number!r}."]}
                ) from error
            raise
        return Response(_shown(link), status=status.HTTP_202_ACCEPTED)


class RequestView(InWorkspace):
    """One request."""

    @extend_schema(operation_id="requests_read", responses=PaymentRequestSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How it stands."""
        return Response(_shown(self.numbered(self.own(_ROWS), "request", number)))


class CancelRequestView(InWorkspace):
    """Cancelling one."""

    @extend_schema(
        operation_id="requests_cancel",
        request=CancelRequestSerializer,
        responses={
            202: PaymentRequestSerializer,
            (409, MEDIA_TYPE): OpenApiResponse(OpenApiTypes.OBJECT, description="It is paid already."),
        },
    )
    def post(self, request: Request, workspace: str, number: int) -> Response:
        """Ask for it no more: its link says so at once, and the provider is told. What was paid stays paid."""
        found = self.numbered(self.own(_ROWS), "request", number)
        given = CancelRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(_shown(deciding.cancel(found, self.person, given.validated_data["note"])),
                        status=status.HTTP_202_ACCEPTED)  # fmt: skip


def _shown(link: PaymentLink) -> Any:
    row = _ROWS.get(pk=link.pk)
    return PaymentRequestSerializer(row, context={"rules": _rules_of([row.crossing.bridge])}).data


def _rules_of(bridges: Iterable[Bridge]) -> dict[int, RequestRules | None]:
    return {bridge.pk: rules.requests for bridge, rules in all_in_force(bridges)}
