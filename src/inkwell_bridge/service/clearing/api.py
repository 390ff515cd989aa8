"""Clearing accounts over the API: which there are, and their proofs."""

from __future__ import annotations

import django_filters
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.clearing import accounts, asking
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.clearing.serializers import (
    ClearingProofHeadSerializer,
    ClearingProofRequestSerializer,
    ClearingProofSerializer,
    MoneyAccountSerializer,
)
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.roles import Role

_ROWS = ClearingProof.objects.select_related("books", "asked_by")


class MoneyAccountsView(InWorkspace):
    """The accounts of money."""

    @extend_schema(operation_id="clearing_accounts", responses=MoneyAccountSerializer(many=True))
    def get(self, request: Request, workspace: str) -> Response:
        """Every account of money that the rules in force name, with the newest proof of it."""
        return Response(MoneyAccountSerializer(accounts.accounts_of(self.workspace), many=True).data)


class ProofFilter(django_filters.FilterSet):
    """What the list can be narrowed to."""

    books = django_filters.CharFilter(field_name="books__slug")
    account = django_filters.CharFilter()

    class Meta:
        model = ClearingProof
        fields = ("books", "account")


class ProofsView(InWorkspace, generics.ListAPIView[ClearingProof]):
    """The proofs, newest first; and asking for one."""

    serializer_class = ClearingProofHeadSerializer
    needs = {"POST": Role.OPERATE}
    filterset_class = ProofFilter

    def get_queryset(self) -> QuerySet[ClearingProof]:
        """Of this workspace."""
        return self.own(_ROWS.defer("result"))

    @extend_schema(
        operation_id="clearing_prove", request=ClearingProofRequestSerializer, responses={202: ClearingProofSerializer}
    )
    def post(self, request: Request, workspace: str) -> Response:
        """Have an account proved: what the books have on it, beside what was posted from here; they are only read."""
        books = self.own(Connection.current.filter(side="books"))
        given = ClearingProofRequestSerializer(data=request.data, connections=books)
        given.is_valid(raise_exception=True)
        proof = asking.ask(person=self.person, **given.validated_data)
        return Response(ClearingProofSerializer(proof).data, status=status.HTTP_202_ACCEPTED)


class OneProof(InWorkspace):
    """A view about one proof."""

    def proof(self) -> ClearingProof:
        """The one named in the address."""
        found: ClearingProof = self.numbered(self.own(_ROWS), "proof", self.kwargs["number"])
        return found


class ProofView(OneProof):
    """One proof."""

    @extend_schema(operation_id="clearing_read", responses=ClearingProofSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How far it is, and what came of it."""
        return Response(ClearingProofSerializer(self.proof()).data)


class CancelProofView(OneProof):
    """Cancelling a proof."""

    @extend_schema(operation_id="clearing_cancel", request=None, responses=ClearingProofHeadSerializer)
    def post(self, request: Request, workspace: str, number: int) -> Response:
        """End it after the page that it is at; one that has ended stays as it is."""
        proof = self.proof()
        proof.cancel()
        return Response(ClearingProofHeadSerializer(proof).data)
