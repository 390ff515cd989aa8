"""Proposals of rules: asked for, followed, cancelled, and what was learnt."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from django.db.models import QuerySet
from django.http import HttpResponseBase, StreamingHttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.period import PeriodSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.proposals import asking
from inkwell_bridge.service.proposals.models import ExampleOrder, Proposal
from inkwell_bridge.service.rehearsals.exporting_api import LINES
from inkwell_bridge.service.sessions import give_session_back

_CHUNK = 200


class LearntRuleSerializer(serializers.Serializer[Any]):
    """A rule by its JSON Pointer, with the examples that speak for it and against it; or a ``note`` where none does.
    One without ``value`` stays open."""

    at = serializers.CharField()
    value = serializers.CharField(allow_blank=True)
    supported = serializers.IntegerField(allow_null=True)
    contradicted = serializers.IntegerField()
    note = serializers.CharField(allow_blank=True)


class ExampleDiffersSerializer(serializers.Serializer[Any]):
    """An order of which the books hold something else than the proposed rules make."""

    number = serializers.CharField()
    books_number = serializers.CharField(allow_blank=True)
    differs = serializers.ListField(child=serializers.CharField())


class ProposalHeadSerializer(ReadOnlySerializer[Proposal]):
    """How far a proposal is; of ``examples`` orders the rules explain ``explained``."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    asked_by = serializers.CharField(source="asked_by.email", default="", read_only=True)
    examples = serializers.SerializerMethodField()
    explained = serializers.SerializerMethodField()

    class Meta:
        model = Proposal
        fields = ("id", "bridge", "first", "last", "least", "state", "asked_by", "asked_at", "ended_at",
                  "total", "done", "trouble", "unread", "examples", "explained")  # fmt: skip

    def get_examples(self, proposal: Proposal) -> int | None:
        """The orders that were learnt from."""
        return proposal.result.get("examples")

    def get_explained(self, proposal: Proposal) -> int | None:
        """Those of which the books hold what the rules make."""
        return proposal.result.get("explained")


class ProposalSerializer(ProposalHeadSerializer):
    """A proposal with what was learnt; nothing of that before it has ended. ``text`` is the rulebook."""

    text = serializers.SerializerMethodField()
    rules = serializers.SerializerMethodField()
    exceptions = serializers.SerializerMethodField()
    unexplained = serializers.SerializerMethodField()

    class Meta(ProposalHeadSerializer.Meta):
        fields = (*ProposalHeadSerializer.Meta.fields, "text", "rules", "exceptions", "unexplained")  # type: ignore[assignment]

    def get_text(self, proposal: Proposal) -> str:
        """The rules in YAML, each with its examples beside it."""
        text: str = proposal.result.get("text", "")
        return text

    @extend_schema_field(LearntRuleSerializer(many=True))
    def get_rules(self, proposal: Proposal) -> Any:
        """Every rule, and what stays open."""
        return proposal.result.get("rules", [])

    @extend_schema_field(ExampleDiffersSerializer(many=True))
    def get_exceptions(self, proposal: Proposal) -> Any:
        """The orders that the rules do not explain, up to a thousand."""
        return proposal.result.get("exceptions", [])

    def get_unexplained(self, proposal: Proposal) -> int:
        """How many there are of them in all."""
        count: int = proposal.result.get("unexplained", 0)
        return count


class ProposalRequestSerializer(PeriodSerializer):
    """The orders to learn from, and how many of them a rule beside the usual one must have."""

    least = serializers.IntegerField(required=False, default=2, min_value=1, max_value=100)


_ROWS = Proposal.objects.select_related("bridge", "asked_by")


class ProposalsView(OneBridge, generics.ListAPIView[Proposal]):
    """The proposals of a bridge, newest first; and asking for one."""

    serializer_class = ProposalHeadSerializer
    needs = {"POST": Role.OPERATE}

    def get_queryset(self) -> QuerySet[Proposal]:
        """Of this bridge."""
        rows = self.own(_ROWS)
        return rows.filter(bridge=self.bridge()) if self.kwargs else rows

    @extend_schema(operation_id="proposals_ask", request=ProposalRequestSerializer, responses={202: ProposalSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Have rules learnt from past orders and what the books hold for them, whoever entered it; both ends are only
        read."""
        given = ProposalRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        proposal = asking.ask(self.bridge(), self.person, **given.validated_data)
        return Response(ProposalSerializer(proposal).data, status=status.HTTP_202_ACCEPTED)


class OneProposal(InWorkspace):
    """A view about one proposal."""

    def proposal(self) -> Proposal:
        """The one named in the address."""
        found: Proposal = self.numbered(self.own(_ROWS), "proposal", self.kwargs["number"])
        return found


class ProposalView(OneProposal):
    """One proposal."""

    @extend_schema(operation_id="proposals_read", responses=ProposalSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How far it is, and what was learnt."""
        return Response(ProposalSerializer(self.proposal()).data)


class CancelProposalView(OneProposal):
    """Cancelling a proposal."""

    @extend_schema(operation_id="proposals_cancel", request=None, responses=ProposalSerializer)
    def post(self, request: Request, workspace: str, number: int) -> Response:
        """End it after the orders that it is at; one that has ended stays as it is."""
        proposal = self.proposal()
        proposal.cancel()
        return Response(ProposalSerializer(proposal).data)


class ExamplesView(OneProposal):
    """The examples of a proposal, as a file."""

    @extend_schema(operation_id="proposals_examples", responses={(200, LINES): OpenApiTypes.STR})
    def get(self, request: Request, workspace: str, number: int) -> HttpResponseBase:
        """JSON Lines: in each an object, of ``kind`` `orders` with the ``document``, without the people in it, or of
        ``kind`` `books` with the ``record`` that the books hold for the order with the id ``order``."""
        proposal = self.proposal()
        answer = StreamingHttpResponse(_lines(proposal), content_type=LINES)
        answer["Content-Disposition"] = f'attachment; filename="examples-{proposal.pk}.jsonl"'
        return answer


def _lines(proposal: Proposal) -> Iterator[str]:
    rows = ExampleOrder.objects.filter(workspace=proposal.workspace_id, proposal=proposal).order_by("pk")
    after = 0
    while chunk := list(rows.filter(pk__gt=after)[:_CHUNK]):
        after = chunk[-1].pk
        # Whoever reads slowly keeps no session of the database meanwhile.
        give_session_back()
        for one in chunk:
            yield _line({"kind": "orders", "document": one.order})
            for record in one.records:
                line = {"kind": "books", "order": one.order["id"], "record": record}
                yield _line(line | ({"contact": one.contact} if one.contact else {}))


def _line(said: dict[str, Any]) -> str:
    return f"{json.dumps(said, ensure_ascii=False)}\n"
