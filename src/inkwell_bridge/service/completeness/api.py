"""Completeness over the API: asking for a check, and what the checks found lacking."""

from __future__ import annotations

import django_filters
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.asked_work import ACTIVE, WorkState
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.completeness import asking
from inkwell_bridge.service.completeness.models import CompletenessCheck, Lacking
from inkwell_bridge.service.completeness.serializers import (
    BridgeCompletenessSerializer,
    CheckHeadSerializer,
    CheckRequestSerializer,
    CheckSerializer,
    LackingSerializer,
    OfDaysSerializer,
)
from inkwell_bridge.service.people.roles import Role

_ROWS = CompletenessCheck.objects.select_related("bridge", "asked_by")


class CompletenessView(InWorkspace):
    """Of each bridge whether everything was read."""

    @extend_schema(
        operation_id="completeness_of_bridges", parameters=[OfDaysSerializer],
        responses=BridgeCompletenessSerializer(many=True),
    )  # fmt: skip
    def get(self, request: Request, workspace: str) -> Response:
        """The newest check that has any of these days, of each bridge that carries what the sheet is made of.

        Without days it is of the last whole month.
        """
        given = OfDaysSerializer(data=request.query_params.dict())
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        bridges = self.own(Bridge.current.select_related("source", "company").prefetch_related("lanes"))
        of = {name: value for name, value in (("slug", asked["bridge"]), ("company__slug", asked["company"])) if value}
        shown = [one for one in bridges.filter(**of).order_by("slug") if asking.carries_to_sheet(one)]
        checks = _ROWS.filter(bridge__in=shown).order_by("bridge", "-id").distinct("bridge")
        ended = checks.filter(state=WorkState.ENDED, first__lte=asked["last"], last__gte=asked["first"])
        newest = {check.bridge_id: check for check in ended}
        under_way = {check.bridge_id: check for check in checks.filter(state__in=ACTIVE)}
        rows = [
            {"bridge": one.slug, "name": one.name, "company": one.company.slug, "time_zone": one.company.time_zone,
             "why_not": asking.cannot_be_checked(one), "under_way": under_way.get(one.pk), "check": newest.get(one.pk)}
            for one in shown
        ]  # fmt: skip
        return Response(BridgeCompletenessSerializer(rows, many=True).data)


class CheckFilter(django_filters.FilterSet):
    """What the list can be narrowed to."""

    bridge = django_filters.CharFilter(field_name="bridge__slug")
    company = django_filters.CharFilter(field_name="bridge__company__slug")

    class Meta:
        model = CompletenessCheck
        fields = ("bridge", "company")


class ChecksView(InWorkspace, generics.ListAPIView[CompletenessCheck]):
    """The checks, newest first; and asking for one."""

    serializer_class = CheckHeadSerializer
    needs = {"POST": Role.OPERATE}
    filterset_class = CheckFilter

    def get_queryset(self) -> QuerySet[CompletenessCheck]:
        """Of this workspace."""
        return self.own(_ROWS.defer("result"))

    @extend_schema(operation_id="completeness_check", request=CheckRequestSerializer, responses={202: CheckSerializer})
    def post(self, request: Request, workspace: str) -> Response:
        """Have it checked whether everything of some days was read.

        What the sales side lists and counts is held against what is here. What is listed and was never read, or has
        changed since, is fetched, and goes its way.
        """
        bridges = self.own(Bridge.current.select_related("source", "company", "workspace"))
        given = CheckRequestSerializer(data=request.data, bridges=bridges)
        given.is_valid(raise_exception=True)
        check = asking.ask(person=self.person, **given.validated_data)
        return Response(CheckSerializer(check).data, status=status.HTTP_202_ACCEPTED)


class OneCheck(InWorkspace):
    """A view about one check."""

    def check(self) -> CompletenessCheck:
        """The one named in the address."""
        found: CompletenessCheck = self.numbered(self.own(_ROWS), "check", self.kwargs["number"])
        return found


class CheckView(OneCheck):
    """One check."""

    @extend_schema(operation_id="completeness_read", responses=CheckSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How far it is, and what came of it."""
        return Response(CheckSerializer(self.check()).data)


class CancelCheckView(OneCheck):
    """Cancelling a check."""

    @extend_schema(operation_id="completeness_cancel", request=None, responses=CheckHeadSerializer)
    def post(self, request: Request, workspace: str, number: int) -> Response:
        """End it after the page that it is at; what was fetched by then stays."""
        check = self.check()
        check.cancel()
        return Response(CheckHeadSerializer(check).data)


class LackingFilter(django_filters.FilterSet):
    """What the list can be narrowed to."""

    bridge = django_filters.CharFilter(field_name="bridge__slug")
    company = django_filters.CharFilter(field_name="bridge__company__slug")
    reason = django_filters.CharFilter()
    first = django_filters.DateFilter(field_name="date", lookup_expr="gte")
    last = django_filters.DateFilter(field_name="date", lookup_expr="lte")

    class Meta:
        model = Lacking
        fields = ("bridge", "company", "reason", "first", "last")


class LackingView(InWorkspace, generics.ListAPIView[Lacking]):
    """What is lacking."""

    serializer_class = LackingSerializer
    filterset_class = LackingFilter

    def get_queryset(self) -> QuerySet[Lacking]:
        """Of this workspace: what the newest check of each day found."""
        return self.own(Lacking.objects.filter(bridge__removed_at=None).select_related("bridge"))
