"""What a person must say of links."""

from __future__ import annotations

from typing import Any

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.search import by_words
from inkwell_bridge.service.links import questions
from inkwell_bridge.service.links.links_api import OneKind
from inkwell_bridge.service.reference.api import NameSerializer

MOST_QUESTIONS = 50


class OfferedSerializer(serializers.Serializer[Any]):
    """An item or contact that a suggestion leads to."""

    id = serializers.CharField()
    code = serializers.CharField()
    name = serializers.CharField()
    email = serializers.CharField()
    postcode = serializers.CharField()
    quantity = serializers.DecimalField(max_digits=15, decimal_places=6, normalize_output=True)
    share = serializers.DecimalField(max_digits=15, decimal_places=6, allow_null=True, normalize_output=True)


class SuggestionSerializer(serializers.Serializer[Any]):
    """What it may be, with points of 100 and the reason for them."""

    targets = OfferedSerializer(many=True)
    points = serializers.IntegerField()
    reason = serializers.CharField()


class QuestionSerializer(serializers.Serializer[Any]):
    """One that is not linked yet, and what it may be, the likeliest first."""

    entry = NameSerializer()
    suggestions = SuggestionSerializer(many=True)


class QuestionsView(OneKind):
    """What a person must say."""

    @extend_schema(
        operation_id="links_questions",
        responses=QuestionSerializer(many=True),
        parameters=[
            OpenApiParameter("limit", OpenApiTypes.INT, description=f"At most {MOST_QUESTIONS}; 10 without it."),
            OpenApiParameter("after", OpenApiTypes.INT, description="The id of the entry of the last question seen."),
            OpenApiParameter("q", OpenApiTypes.STR, description="Part of a code or name."),
        ],
    )
    def get(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """The next of them, in the order in which they were first loaded."""
        between = self.between()
        limit = min(max(_number(request, "limit", 10), 1), MOST_QUESTIONS)
        rows = between.open().filter(pk__gt=_number(request, "after", 0)).order_by("pk")
        rows = by_words(rows, request.query_params.get("q", ""))
        return Response(QuestionSerializer(questions.ask(between, list(rows[:limit])), many=True).data)


def _number(request: Request, name: str, default: int) -> int:
    text = request.query_params.get(name, "")
    if not text:
        return default
    if not text.isdigit() or len(text) > 18:
        raise serializers.ValidationError({name: [f"Expected a whole number, got {text[:40]!r}."]})
    return int(text)
