"""Months over the API: what is open, accepting it, closing, opening again, and the report."""

from __future__ import annotations

from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

import django_filters
from django.db.models import QuerySet
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.closing import ClosedReport, Month, not_accepted
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.proof import Reason
from inkwell_bridge.service import clock
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.closing import closing as doing
from inkwell_bridge.service.closing.freezing import acceptances, month_report, scope_of
from inkwell_bridge.service.closing.later_changes import changed_documents, changed_sums, number_changed
from inkwell_bridge.service.closing.models import AcceptedDifference, MonthClosing
from inkwell_bridge.service.closing.open_differences import items_of
from inkwell_bridge.service.closing.serializers import (
    AcceptSerializer,
    ChainSerializer,
    ChangedPageSerializer,
    ChangedRequestSerializer,
    ClosingSerializer,
    MonthSerializer,
    NeededNoteSerializer,
    NoteSerializer,
    ReportRequestSerializer,
)
from inkwell_bridge.service.closing.writing import written
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.tieout import sheet

_CLOSINGS = MonthClosing.objects.select_related("company", "closed_by", "reopening__person").defer("content")


class OneMonth(InWorkspace):
    """A view about one month of one company."""

    @cached_property
    def company(self) -> Company:
        """The one named in the address."""
        found: Company = self.named(Company.objects.select_related("workspace"), "company", self.kwargs["company"])
        return found

    @cached_property
    def month(self) -> Month:
        """The one named in the address.

        Raises:
            ValidationError: it is none.
        """
        try:
            return Month.read(self.kwargs["month"])
        except DocumentInvalid as error:
            raise serializers.ValidationError({"month": [f"Expected {error.expected}."]}) from error

    def told(self) -> Response:
        """The month as it is now."""
        return Response(_told(self.company, self.month))


def _told(company: Company, month: Month) -> dict[str, Any]:
    """All that is said of a month."""
    scope = scope_of(company, month)
    closing, proposal = doing.closing_of(company, month), doing.proposal_of(company, month)
    items, accepted = items_of(scope), acceptances(company, month)
    frozen = ClosedReport.read(closing.content).report if closing else None
    fingerprints = {one.item.fingerprint for one in frozen.accepted} if frozen else {one.fingerprint for one in items}
    rows = [row for table in sheet.whole(scope) for row in table]
    changed = number_changed([closing]) if closing else {}
    data = {
        "company": company.slug,
        "month": str(month),
        "state": "closed" if closing else "proposed" if proposal else "open",
        "over": month.last < clock.now().astimezone(ZoneInfo(company.time_zone)).date(),
        "two_close": company.two_close,
        "ties": not items and all(row.ties for row in rows),
        "items": items,
        "left": len(not_accepted(items, {one.item["fingerprint"] for one in accepted})),
        "accepted": accepted,
        "proposal": proposal,
        "closing": closing,
        "since": changed_sums(closing) if closing else [],
        "differing_since": _differing_since(scope, frozen) if frozen else [],
    }
    return dict(MonthSerializer(data, context={"fingerprints": fingerprints, "changed": changed}).data)


def _differing_since(scope: Any, frozen: Any) -> list[dict[str, Any]]:
    """How many documents more differ in the books than when the month was closed, by the reason."""
    before = {one.reason: one.documents for one in frozen.differing}
    now: dict[Reason, int] = dict(sheet.differing(scope))
    more = {reason: number - before.get(reason.value, 0) for reason, number in now.items()}
    return [{"reason": reason.value, "documents": number} for reason, number in more.items() if number > 0]


class MonthView(OneMonth):
    """One month."""

    @extend_schema(operation_id="months_read", responses=MonthSerializer)
    def get(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Whether it ties, what is open, what was accepted, whether it is closed, and what changed since."""
        return self.told()


class AcceptancesView(OneMonth):
    """What is accepted of a month."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="months_accept", request=AcceptSerializer, responses={201: MonthSerializer})
    def post(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Accept an open item with a note; it holds for these documents and amounts, and for no others."""
        given = AcceptSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        doing.accept(self.company, self.month, self.person, **given.validated_data)
        answer = self.told()
        answer.status_code = status.HTTP_201_CREATED
        return answer


class AcceptanceView(OneMonth):
    """One acceptance."""

    needs = {"DELETE": Role.OPERATE}

    @extend_schema(operation_id="months_not_accept", responses=MonthSerializer)
    def delete(self, request: Request, workspace: str, company: str, month: str, number: int) -> Response:
        """Take it back; that it was given stays on the trail."""
        of_month = AcceptedDifference.objects.filter(company=self.company, month=self.month.first)
        rows = self.own(of_month.select_related("company__workspace"))
        doing.withdraw(self.numbered(rows, "acceptance", number), self.person)
        return self.told()


class ProposalView(OneMonth):
    """Proposing to close a month."""

    needs = {"POST": Role.OPERATE, "DELETE": Role.OPERATE}

    @extend_schema(operation_id="months_propose", request=NoteSerializer, responses=MonthSerializer)
    def post(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Propose to close it as it is now: another person does so, where the figures are the same still."""
        given = NoteSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        doing.propose(self.company, self.month, self.person, given.validated_data["note"])
        return self.told()

    @extend_schema(operation_id="months_not_propose", responses=MonthSerializer)
    def delete(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Propose it no longer."""
        doing.take_proposal_back(self.company, self.month, self.person)
        return self.told()


class CloseView(OneMonth):
    """Closing a month."""

    needs = {"POST": Role.PUBLISH}

    @extend_schema(operation_id="months_close", request=NoteSerializer, responses=MonthSerializer)
    def post(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Close it: the figures are frozen with a checksum, and what changes later stands beside them."""
        given = NoteSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        doing.close(self.company, self.month, self.person, given.validated_data["note"])
        return self.told()


class ReopenView(OneMonth):
    """Opening a closed month again."""

    needs = {"POST": Role.OWN}

    @extend_schema(operation_id="months_reopen", request=NeededNoteSerializer, responses=MonthSerializer)
    def post(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """Open it again, with a note that says why; the closing that was stays in the chain."""
        given = NeededNoteSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        doing.reopen(self.company, self.month, self.person, given.validated_data["note"])
        return self.told()


class ChangesView(OneMonth):
    """What changed in a closed month."""

    @extend_schema(
        operation_id="months_changes", parameters=[ChangedRequestSerializer], responses=ChangedPageSerializer
    )
    def get(self, request: Request, workspace: str, company: str, month: str) -> Response:
        """The documents that are otherwise in it than when it was closed; of an open month none."""
        given = ChangedRequestSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        closing = doing.closing_of(self.company, self.month)
        rows, more = changed_documents(closing, given.validated_data["after"]) if closing else ([], False)
        data = {"documents": rows, "after": rows[-1].crossing.pk if more else None}
        return Response(ChangedPageSerializer(data).data)


class ReportView(OneMonth):
    """The report of a month."""

    @extend_schema(
        operation_id="months_report", parameters=[ReportRequestSerializer],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY},
    )  # fmt: skip
    def get(self, request: Request, workspace: str, company: str, month: str) -> HttpResponse:
        """As PDF, XLSX or JSON: of a closed month the frozen figures, the same bytes each time; else as it is now."""
        given = ReportRequestSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        found, of = self.company, self.month
        closing = doing.closing_of(found, of)
        report = ClosedReport.read(closing.content) if closing else ClosedReport(report=month_report(found, of))
        return _file(report, given.validated_data, found)


class ClosingFilter(django_filters.FilterSet):
    """What the list can be narrowed to."""

    company = django_filters.CharFilter(field_name="company__slug")

    class Meta:
        model = MonthClosing
        fields = ("company",)


class ClosingsView(InWorkspace, generics.ListAPIView[MonthClosing]):
    """The closings, those that were opened again among them; newest first."""

    serializer_class = ClosingSerializer
    filterset_class = ClosingFilter

    def get_queryset(self) -> QuerySet[MonthClosing]:
        """Of this workspace."""
        return self.own(_CLOSINGS)

    def get_serializer(self, *args: Any, **kwargs: Any) -> Any:
        """With how many documents changed in each, for all of a page at once."""
        rows = args[0] if args and isinstance(args[0], list) else []
        kwargs["context"] = {**self.get_serializer_context(), "changed": number_changed(rows)}
        return ClosingSerializer(*args, **kwargs)


class ClosingReportView(InWorkspace):
    """The report of a closing, whether it was opened again or not."""

    @extend_schema(
        operation_id="closings_report", parameters=[ReportRequestSerializer],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY},
    )  # fmt: skip
    def get(self, request: Request, workspace: str, number: int) -> HttpResponse:
        """As PDF, XLSX or JSON; the same bytes each time."""
        given = ReportRequestSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        rows = self.own(MonthClosing.objects.select_related("company"))
        closing: MonthClosing = self.numbered(rows, "closing", number)
        return _file(ClosedReport.read(closing.content), given.validated_data, closing.company)


def _file(report: ClosedReport, asked: dict[str, Any], company: Company) -> HttpResponse:
    form = asked["form"]
    content, media_type = written(report, form, asked["language"] or company.report_language)
    answer = HttpResponse(content, content_type=media_type)
    answer["Content-Disposition"] = f'attachment; filename="{company.slug}-{report.report.month}.{form}"'
    return answer


class ChainView(InWorkspace):
    """The chain of a company's closings."""

    @extend_schema(operation_id="closings_verify", responses=ChainSerializer)
    def get(self, request: Request, workspace: str, company: str) -> Response:
        """Whether it holds: every checksum is worked out anew from the frozen figures."""
        found: Company = self.named(Company.objects.all(), "company", company)
        number, broken = doing.verify(found)
        data = {"company": found.slug, "closings": number, "holds": not broken, "broken": broken}
        return Response(ChainSerializer(data).data)
