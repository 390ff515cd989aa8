"""Links: what is certain, what a person must say, and taking back."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import Q, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service import queue
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.api.search import WordFilter, by_words
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.links import changing, questions
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import Target
from inkwell_bridge.service.links.models import Change, Link, What
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.reference.api import NameSerializer
from inkwell_bridge.service.reference.models import Entry

MOST_QUESTIONS = 50


class OneKind(OneBridge):
    """A view about one kind of link over a bridge."""

    needs = {"POST": Role.EDIT}

    def between(self) -> Between:
        """The two ends, and what is linked."""
        kind = self.kwargs["kind"]
        if kind not in set(LinkKind):
            raise Http404
        return Between.of(self.bridge(), LinkKind(kind))


class LinkTargetSerializer(serializers.Serializer[Any]):
    """Where a link leads: an item or contact of the books, and how many of it one sold is."""

    id = serializers.CharField(max_length=120)
    quantity = serializers.DecimalField(max_digits=15, decimal_places=6, min_value=Decimal("0.000001"), default=1)
    share = serializers.DecimalField(
        max_digits=15, decimal_places=6, min_value=Decimal(0), allow_null=True, default=None
    )


class LinkShownSerializer(LinkTargetSerializer):
    """A link that stands; ``rule`` tells how it came about: a rule's name, ``person`` or ``import``."""

    id = serializers.CharField(source="target_id")  # type: ignore[assignment]
    code = serializers.CharField(source="target_code")
    rule = serializers.CharField()


class LinkedSerializer(NameSerializer):
    """One of the sales side, with where it leads.

    ``state`` is ``linked``, ``none`` (there is no counterpart) or ``open`` (nobody has said).
    """

    state = serializers.SerializerMethodField()
    links = serializers.SerializerMethodField()

    class Meta(NameSerializer.Meta):
        fields = (*NameSerializer.Meta.fields, "state", "links")  # type: ignore[assignment]

    def _links(self, entry: Entry) -> list[Link]:
        found: dict[str, list[Link]] = self.context["links"]
        return found.get(entry.source_id, [])

    @extend_schema_field(serializers.ChoiceField(choices=["linked", "none", "open"]))
    def get_state(self, entry: Entry) -> str:
        """How it stands."""
        links = self._links(entry)
        if not links:
            return "open"
        return "linked" if links[0].target_id else "none"

    @extend_schema_field(LinkShownSerializer(many=True))
    def get_links(self, entry: Entry) -> Any:
        """Where it leads."""
        links = [link for link in self._links(entry) if link.target_id]
        return LinkShownSerializer(links, many=True).data


class LinkedFilter(WordFilter):
    """Search and state."""

    state = django_filters.ChoiceFilter(
        choices=[("linked", "Linked"), ("none", "No counterpart"), ("open", "Open")], method="by_state"
    )

    class Meta:
        model = Entry
        fields = ("active",)

    def by_state(self, rows: QuerySet[Entry], name: str, state: str) -> QuerySet[Entry]:
        """How it stands."""
        return rows.filter({"open": Q(answered=False), "none": Q(none=True)}.get(state, Q(answered=True, none=False)))


class LinksView(OneKind, generics.ListAPIView[Entry]):
    """Everything of the sales side, with where it leads."""

    serializer_class = LinkedSerializer
    filterset_class = LinkedFilter
    sort = ("code", "id")

    def get_queryset(self) -> QuerySet[Entry]:
        """Of this bridge and kind."""
        if getattr(self, "swagger_fake_view", False):
            return Entry.objects.none()
        return self.between().sold_with_answers()

    def paginate_queryset(self, queryset: Any) -> Any:
        """The page's links are read with it, all in one statement."""
        page = super().paginate_queryset(queryset)
        self._links: dict[str, list[Link]] = {}
        for link in self.between().links().filter(key__in=[entry.source_id for entry in page or ()]).order_by("pk"):
            self._links.setdefault(link.key, []).append(link)
        return page

    def get_serializer_context(self) -> dict[str, Any]:
        """See ``LinkedSerializer``."""
        return {**super().get_serializer_context(), "links": getattr(self, "_links", {})}


class LinkCountsSerializer(serializers.Serializer[Any]):
    """How many are linked, have no counterpart, and are open."""

    linked = serializers.IntegerField()
    none = serializers.IntegerField()
    open = serializers.IntegerField()
    version = serializers.IntegerField(help_text="The number of the newest change; 0 where there was none.")


def counts(between: Between) -> dict[str, int]:
    """See ``LinkCountsSerializer``."""
    rows = between.sold_with_answers()
    newest = between.changes().values_list("pk", flat=True).first()
    return {
        "linked": rows.filter(answered=True, none=False).count(),
        "none": rows.filter(none=True).count(),
        "open": rows.filter(answered=False, active=True).count(),
        "version": newest or 0,
    }


class LinkCountsView(OneKind):
    """How far the linking is."""

    @extend_schema(operation_id="links_counts", responses=LinkCountsSerializer)
    def get(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """The counts."""
        return Response(LinkCountsSerializer(counts(self.between())).data)


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


class AnswerSerializer(serializers.Serializer[Any]):
    """What one of the sales side is in the books: one or several targets, or none of them."""

    key = serializers.CharField(max_length=120, help_text="The source_id of the entry.")
    none = serializers.BooleanField(default=False, help_text="There is no counterpart, and none is wanted.")
    targets = LinkTargetSerializer(many=True, default=list, max_length=50)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Either targets, each once, or none."""
        ids = [target["id"] for target in attrs["targets"]]
        if bool(ids) == attrs["none"]:
            raise serializers.ValidationError("Expected either targets, or none: true.")
        if len(set(ids)) != len(ids):
            raise serializers.ValidationError({"targets": ["One of them is named twice; give it a quantity instead."]})
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
        wanted = _targets(between, answers)
        change = changing.put(between, wanted, what=What.ANSWERED, person=self.person)
        change = change or between.changes().first()
        return Response(ChangeSerializer(change).data)


def _targets(between: Between, answers: list[dict[str, Any]]) -> dict[str, list[Target]]:
    keys = {answer["key"] for answer in answers}
    known = set(between.sold().filter(source_id__in=keys).values_list("source_id", flat=True))
    ids = {target["id"] for answer in answers for target in answer["targets"]}
    codes = dict(between.kept().filter(source_id__in=ids).values_list("source_id", "code"))
    wrong = [f"There is none with the id {key!r} to be linked." for key in sorted(keys - known)]
    wrong += [f"The books have none with the id {identity!r}." for identity in sorted(ids - set(codes))]
    if wrong:
        raise serializers.ValidationError({"answers": wrong})
    return {
        answer["key"]: [
            Target(id=one["id"], code=codes[one["id"]], quantity=one["quantity"], share=one["share"], rule="person")
            for one in answer["targets"]
        ]
        or [Target(rule="person")]
        for answer in answers
    }


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
            change = get_object_or_404(between.changes(), pk=number)
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
