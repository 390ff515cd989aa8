"""Answers to questions about links, taking them back, and what changed."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service import queue
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.links import changing
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import Target
from inkwell_bridge.service.links.links_api import (
    LinkCountsSerializer,
    LinkTargetSerializer,
    OneKind,
    counts,
)
from inkwell_bridge.service.links.models import Change, What
from inkwell_bridge.service.links.naming import entries_named
from inkwell_bridge.service.people.roles import Role


class AnswerSerializer(serializers.Serializer[Any]):
    """What one of the sales side is in the books: one or several targets, or none of them."""

    key = serializers.CharField(max_length=120, help_text="The id or the code of the entry.")
    none = serializers.BooleanField(default=False, help_text="There is no counterpart, and none is wanted.")
    targets = LinkTargetSerializer(many=True, default=list, max_length=50)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Either targets, or none."""
        if bool(attrs["targets"]) == attrs["none"]:
            raise serializers.ValidationError("Expected either targets, or none: true.")
        return attrs


class AnswersRequestSerializer(serializers.Serializer[Any]):
    """Answers, all put in place together or not at all."""

    answers = AnswerSerializer(many=True, allow_empty=False, max_length=200)


class ChangeSerializer(ReadOnlySerializer[Change]):
    """One change of links; its id is the version of the links that it made."""

    person = serializers.CharField(source="person.email", default="", read_only=True)
    undone = serializers.SerializerMethodField()

    class Meta:
        model = Change
        fields = ("id", "what", "at", "person", "text", "undone")

    def get_undone(self, change: Change) -> bool:
        """Whether it was taken back."""
        return hasattr(change, "undone_by")


class AnswersView(OneKind):
    """Answering."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="links_answer", request=AnswersRequestSerializer, responses=ChangeSerializer)
    def post(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Say what some of the sales side are in the books."""
        given = AnswersRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        between, answers = self.between(), given.validated_data["answers"]
        wanted = targets_of(between, answers)
        change = changing.put(between, wanted, what=What.ANSWERED, person=self.person)
        change = change or between.changes().first()
        return Response(ChangeSerializer(change).data)


def targets_of(between: Between, answers: list[dict[str, Any]]) -> dict[str, list[Target]]:
    """What each named entry of the sales side shall lead to, by its id there.

    Raises:
        ValidationError: one of either side is named that there is not, or one target twice.
    """
    sold, wrong = entries_named(between.sold(), {one["key"] for one in answers}, where=between.source.name)
    named = {target["id"] for answer in answers for target in answer["targets"]}
    kept, missing = entries_named(between.kept(), named, where=between.books.name)
    if wrong or missing:
        raise serializers.ValidationError({"answers": [*wrong, *missing]})
    wanted = {}
    for answer in answers:
        targets = [(kept[one["id"]], one) for one in answer["targets"]]
        # An id and a code may name the same one.
        if len({entry.pk for entry, _ in targets}) != len(targets):
            raise serializers.ValidationError({"targets": ["One of them is named twice; give it a quantity instead."]})
        wanted[sold[answer["key"]].source_id] = [
            Target(id=entry.source_id, code=entry.code, quantity=one["quantity"], share=one["share"], rule="person")
            for entry, one in targets
        ] or [Target(rule="person")]
    return wanted


class UndoRequestSerializer(Strict):
    """Which change; the newest of one's own, where none is named."""

    change = serializers.IntegerField(required=False)


class UndoView(OneKind):
    """Taking back."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="links_undo", request=UndoRequestSerializer, responses=ChangeSerializer)
    def post(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Take a change back; the answer is the change that did so."""
        given = UndoRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        between = self.between()
        number = given.validated_data.get("change")
        if number is None:
            change = changing.newest_to_undo(between, self.person)
        else:
            change = self.numbered(between.changes(), "change", number)
        return Response(ChangeSerializer(changing.undo(between, change, self.person)).data)


class ChangesView(OneKind, generics.ListAPIView[Change]):
    """The history of the links."""

    serializer_class = ChangeSerializer

    def get_queryset(self) -> QuerySet[Change]:
        """Of this bridge and kind, newest first."""
        if getattr(self, "swagger_fake_view", False):
            return Change.objects.none()
        return self.between().changes().select_related("person", "undone_by")


class MatchView(OneKind):
    """Letting the rules look again."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="links_match", request=None, responses={202: LinkCountsSerializer})
    def post(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Link what is certain, in the background; the answer is how it stands before."""
        between = self.between()
        arguments = {"workspace_id": self.workspace.pk, "connection_id": between.source.pk}
        queue.defer(queue.MATCH, [queue.Call(arguments=arguments, lock=f"matching:{between.source.pk}")])
        return Response(LinkCountsSerializer(counts(between)).data, status=status.HTTP_202_ACCEPTED)
