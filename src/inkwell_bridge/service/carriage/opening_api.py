"""Opening balances of a bridge over the API."""

from __future__ import annotations

from typing import Any

from django.http import Http404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.commerce import OpenFor
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.carriage import opening
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.people.roles import Role


class BalanceSerializer(Strict, serializers.Serializer[Any]):
    """One balance: what is owed to customers, or on a clearing account what a provider still has to pay out."""

    of = serializers.ChoiceField(choices=[one.value for one in OpenFor])
    amount = serializers.RegexField(r"^-?[0-9]{1,12}(\.[0-9]{1,3})?\Z", help_text="In the company's own currency.")
    account = serializers.CharField(max_length=120, required=False, help_text="The clearing account; of that alone.")
    text = serializers.CharField(max_length=200, required=False)


class OpeningRequestSerializer(Strict, serializers.Serializer[Any]):
    """The balances of the cut-over, and the account that they come out of."""

    against = serializers.CharField(max_length=120)
    balances = BalanceSerializer(many=True, allow_empty=False, max_length=100)


class OpeningSerializer(serializers.Serializer[Any]):
    """The opening balances of a bridge, and what became of them."""

    crossing = serializers.IntegerField(source="pk")
    state = serializers.CharField()
    opened_on = serializers.DateField(source="business_date")
    currency = serializers.CharField()
    against = serializers.CharField(source="snapshot.content.against")
    balances = serializers.SerializerMethodField()
    books_number = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)

    @extend_schema_field(BalanceSerializer(many=True))
    def get_balances(self, crossing: Crossing) -> Any:
        """As they were entered."""
        return (crossing.snapshot.content or {}).get("balances", [])

    def get_books_number(self, crossing: Crossing) -> str:
        """The number of the journal in the books, once it has one."""
        return next((document.books_number for document in crossing.documents.all()), "")


class OpeningView(OneBridge):
    """The opening balances of a bridge."""

    needs = {"PUT": Role.EDIT}

    @extend_schema(operation_id="opening_read", responses=OpeningSerializer)
    def get(self, request: Request, workspace: str, bridge: str) -> Response:
        """What was entered, and what became of it."""
        found = opening.entered(self.bridge())
        if found is None:
            raise Http404
        return Response(OpeningSerializer(found).data)

    @extend_schema(operation_id="opening_enter", request=OpeningRequestSerializer, responses=OpeningSerializer)
    def put(self, request: Request, workspace: str, bridge: str) -> Response:
        """Enter them: they are posted as one journal, dated on the bridge's first day. Posted, they stay."""
        given = OpeningRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        found = opening.enter(self.bridge(), self.person, said["against"], said["balances"])
        return Response(OpeningSerializer(found).data)
