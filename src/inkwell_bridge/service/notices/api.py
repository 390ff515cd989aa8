"""Troubles, who is told of them, and what they were told."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.notices import Reason, TroubleKind
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.signed_calls import new_signing_secret
from inkwell_bridge.service import clock, vault
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict, TimeZoneField
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.lanes import lane_names
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.amounts_api import written
from inkwell_bridge.service.connections.actions import judge_address
from inkwell_bridge.service.connections.pasted import mended_address
from inkwell_bridge.service.notices import composing
from inkwell_bridge.service.notices.models import Channel, Notice, NoticeRule, NoticesRead, Trouble
from inkwell_bridge.service.notices.sending import NotSent, owner_of, send
from inkwell_bridge.service.people.models import Company, Membership
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record

_TIME = {"required": False, "allow_null": True, "format": "%H:%M", "input_formats": ["%H:%M"]}


class TroubleSerializer(ReadOnlySerializer[Trouble]):
    """Something that needs somebody, or did."""

    bridge = serializers.CharField(source="bridge.slug", default="", read_only=True)
    connection = serializers.CharField(source="connection.slug", default="", read_only=True)
    amounts = serializers.SerializerMethodField(help_text="By currency.")
    headline = serializers.SerializerMethodField()
    page = serializers.SerializerMethodField(help_text="The page of the console on which it is mended.")
    unread = serializers.SerializerMethodField()

    class Meta:
        model = Trouble
        fields = (
            "id",
            "kind",
            "bridge",
            "connection",
            "lane",
            "cause",
            "count",
            "amounts",
            "oldest",
            "text",
            "tries",
            "next_try_at",
            "opened_at",
            "changed_at",
            "ended_at",
            "headline",
            "page",
            "unread",
        )

    @extend_schema_field(serializers.DictField(child=serializers.CharField()))
    def get_amounts(self, trouble: Trouble) -> dict[str, str]:
        """As text, so that nothing rounds them."""
        return {currency: _written(amount, currency) for currency, amount in trouble.amounts.items()}

    def get_headline(self, trouble: Trouble) -> str:
        """In one line."""
        return composing.describe(trouble, Reason.LASTS).headline

    def get_page(self, trouble: Trouble) -> str:
        """Within the workspace."""
        return composing.page_of(trouble)

    def get_unread(self, trouble: Trouble) -> bool:
        """Whether it is new, or has grown, since whoever asks has looked."""
        read_at: datetime | None = self.context["read_at"]
        return trouble.ended_at is None and (read_at is None or trouble.changed_at > read_at)


class TroublesSerializer(serializers.Serializer[Any]):
    """What needs somebody now, and how much of it is new to whoever asks."""

    unread = serializers.IntegerField()
    troubles = TroubleSerializer(many=True)


class TroublesView(InWorkspace):
    """What needs somebody now."""

    @extend_schema(operation_id="troubles_now", responses=TroublesSerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """The newest change first."""
        read_at = self._read_at()
        found = composing.open_troubles(self.workspace)
        shown = TroubleSerializer(found, many=True, context={"read_at": read_at}).data
        return Response({"unread": sum(one["unread"] for one in shown), "troubles": shown})

    def _read_at(self) -> datetime | None:
        rows = NoticesRead.objects.filter(workspace=self.workspace, person=self.person)
        return rows.values_list("at", flat=True).first()


class TroublesReadView(InWorkspace):
    """Somebody has looked."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="troubles_read", request=None, responses={204: None})
    def post(self, request: Request, workspace: str) -> Response:
        """All that there is now is new to them no more."""
        NoticesRead.objects.update_or_create(workspace=self.workspace, person=self.person, defaults={"at": clock.now()})
        return Response(status=status.HTTP_204_NO_CONTENT)


class PastTroublesView(InWorkspace, generics.ListAPIView[Trouble]):
    """Every trouble there was."""

    serializer_class = TroubleSerializer
    filterset_fields = ("kind",)
    sort = ("-id",)

    def get_serializer_context(self) -> dict[str, Any]:
        """What is past is new to nobody."""
        return {**super().get_serializer_context(), "read_at": clock.now()}

    def get_queryset(self) -> QuerySet[Trouble]:
        """The newest first."""
        return self.own(Trouble.objects.select_related("bridge__company", "connection", "workspace"))


class NoticeRuleSerializer(Strict, serializers.ModelSerializer[NoticeRule]):
    """Who is told of what, how and when."""

    person = serializers.EmailField(required=False, help_text="E-mail of somebody who has a role here.")
    channel = serializers.ChoiceField(choices=Channel.choices)
    kinds = serializers.ListField(
        child=serializers.ChoiceField(choices=[kind.value for kind in TroubleKind]), required=False, max_length=10
    )
    bridges = serializers.ListField(child=serializers.CharField(max_length=60), required=False, max_length=200)
    lanes = serializers.ListField(child=serializers.CharField(max_length=30), required=False, max_length=30)
    digest_at = serializers.TimeField(**_TIME)
    summary_at = serializers.TimeField(**_TIME)
    quiet_from = serializers.TimeField(**_TIME)
    quiet_until = serializers.TimeField(**_TIME)
    time_zone = TimeZoneField(required=False)

    class Meta:
        model = NoticeRule
        fields = (
            "id",
            "channel",
            "person",
            "address",
            "kinds",
            "bridges",
            "lanes",
            "at_once",
            "digest_at",
            "summary_at",
            "quiet_from",
            "quiet_until",
            "time_zone",
            "on",
            "last_sent_at",
            "last_failure",
        )
        read_only_fields = ("last_sent_at", "last_failure")

    def to_representation(self, instance: NoticeRule) -> dict[str, Any]:
        """The person by e-mail."""
        shown = super().to_representation(instance)
        return {**shown, "person": instance.person.email if instance.person else ""}

    def validate_address(self, pasted: str) -> str:
        """An address that may be called."""
        if not pasted:
            return ""
        try:
            address, _ = mended_address(pasted)
            judge_address(address)
        except (ValueError, Refused) as error:
            raise serializers.ValidationError(str(error)) from error
        return address

    def validate_lanes(self, named: list[str]) -> list[str]:
        """Lanes that there are."""
        return _known(named, lane_names(), "lane")

    def validate_bridges(self, named: list[str]) -> list[str]:
        """Bridges that there are."""
        rows = Bridge.current.filter(workspace=self.context["view"].workspace)
        return _known(named, list(rows.values_list("slug", flat=True)), "bridge")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Somebody to tell, and a time to tell it."""
        now = {name: attrs.get(name, getattr(self.instance, name, None)) for name in (
            "channel", "person", "address", "at_once", "digest_at", "summary_at", "quiet_from", "quiet_until"
        )}  # fmt: skip
        if now["channel"] == Channel.MAIL:
            attrs["person"] = self._person(attrs.get("person"))
            attrs["address"] = ""
        elif not now["address"]:
            raise serializers.ValidationError({"address": ["Expected the address to call."]})
        elif attrs.get("person"):
            raise serializers.ValidationError({"person": ["Expected only with the channel mail."]})
        else:
            attrs["person"] = None
        if (now["quiet_from"] is None) != (now["quiet_until"] is None):
            raise serializers.ValidationError({"quiet_until": ["Expected both ends of the quiet hours, or neither."]})
        if now["at_once"] is False and now["digest_at"] is None and now["summary_at"] is None:
            raise serializers.ValidationError({"digest_at": ["Expected at once, a digest or a summary."]})
        return attrs

    def _person(self, email: str | None) -> Any:
        view = self.context["view"]
        if email is None:
            return self.instance.person if self.instance and self.instance.person else view.person
        rows = Membership.objects.select_related("person").filter(workspace=view.workspace)
        found = rows.filter(person__email__iexact=email).first()
        if found is None:
            raise serializers.ValidationError({"person": [f"Nobody here has the e-mail {email!r}."]})
        return found.person


def _known(named: list[str], there: Any, what: str) -> list[str]:
    unknown = sorted(set(named) - set(there))
    if unknown:
        raise serializers.ValidationError(f"There is no {what} {unknown[0]!r}; there are {', '.join(there) or 'none'}.")
    return named


class MadeNoticeRuleSerializer(NoticeRuleSerializer):
    """The same with the secret that its calls are signed with, shown this once."""

    secret = serializers.CharField(read_only=True)

    class Meta(NoticeRuleSerializer.Meta):
        fields = (*NoticeRuleSerializer.Meta.fields, "secret")  # type: ignore[assignment]


class NoticeRulesView(InWorkspace, generics.ListCreateAPIView[NoticeRule]):
    """Who is told of what."""

    serializer_class = NoticeRuleSerializer
    needs = {"POST": Role.EDIT}
    sort = ("id",)

    def get_queryset(self) -> QuerySet[NoticeRule]:
        """Of this workspace."""
        return self.own(NoticeRule.objects.select_related("person", "workspace"))

    @extend_schema(
        operation_id="notice_rules_make", request=NoticeRuleSerializer, responses={201: MadeNoticeRuleSerializer}
    )
    @transaction.atomic
    def post(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Tell somebody from now on; the secret of calls is shown this once."""
        given = NoticeRuleSerializer(data=request.data, context=self.get_serializer_context())
        given.is_valid(raise_exception=True)
        fields = dict(given.validated_data)
        fields.setdefault("time_zone", _zone(self))
        rule = NoticeRule.objects.create(workspace=self.workspace, made_by=self.person, **fields)
        secret = _new_secret(rule) if rule.channel == Channel.CALL else ""
        record(self.workspace, self.person, "notice rule.made", _about(rule))
        shown = NoticeRuleSerializer(rule, context=self.get_serializer_context()).data
        return Response({**shown, "secret": secret}, status=status.HTTP_201_CREATED)


class OneNoticeRule(InWorkspace):
    """A view about one rule."""

    def rule(self, number: int) -> NoticeRule:
        """The rule of that number."""
        rows = self.own(NoticeRule.objects.select_related("person", "workspace"))
        found: NoticeRule = self.numbered(rows, "notice rule", number)
        return found


class NoticeRuleView(OneNoticeRule):
    """One rule."""

    needs = {"PATCH": Role.EDIT, "DELETE": Role.EDIT}

    @extend_schema(operation_id="notice_rules_read", responses=NoticeRuleSerializer)
    def get(self, request: Request, workspace: str, rule: int) -> Response:
        """It, and when it last sent something."""
        return Response(NoticeRuleSerializer(self.rule(rule), context={"view": self}).data)

    @extend_schema(operation_id="notice_rules_change", request=NoticeRuleSerializer, responses=NoticeRuleSerializer)
    @transaction.atomic
    def patch(self, request: Request, workspace: str, rule: int) -> Response:
        """Change what is told, how and when."""
        found = self.rule(rule)
        given = NoticeRuleSerializer(found, data=request.data, partial=True, context={"view": self})
        given.is_valid(raise_exception=True)
        names = [name for name in request.data if name in NoticeRuleSerializer.Meta.fields]
        before = NoticeRuleSerializer(found, context={"view": self}).data
        was = {name: str(before.get(name))[:200] for name in names}
        changed = given.save(next_digest_at=None, next_summary_at=None)
        told = {name: str(request.data[name])[:200] for name in names}
        record(self.workspace, self.person, "notice rule.changed", _about(changed), **told, was=was)
        return Response(NoticeRuleSerializer(changed, context={"view": self}).data)

    @extend_schema(operation_id="notice_rules_remove", responses={204: None})
    @transaction.atomic
    def delete(self, request: Request, workspace: str, rule: int) -> Response:
        """Tell them no more."""
        found = self.rule(rule)
        record(self.workspace, self.person, "notice rule.removed", _about(found))
        found.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class TestedSerializer(serializers.Serializer[Any]):
    """What happened to a test message."""

    sent = serializers.BooleanField()
    text = serializers.CharField()


class TestNoticeView(OneNoticeRule):
    """The test button."""

    needs = {"POST": Role.EDIT}

    @extend_schema(operation_id="notice_rules_test", request=None, responses=TestedSerializer)
    def post(self, request: Request, workspace: str, rule: int) -> Response:
        """Send one message now, and say what happened."""
        found = self.rule(rule)
        message, event = composing.test_message(found)
        try:
            return Response({"sent": True, "text": send(found, message, event)})
        except NotSent as error:
            return Response({"sent": False, "text": str(error)})


class NoticeSecretSerializer(serializers.Serializer[Any]):
    """The secret that a rule's calls are signed with, shown this once."""

    secret = serializers.CharField()


class NoticeSecretView(OneNoticeRule):
    """The secret of a rule's calls."""

    needs = {"POST": Role.EDIT}

    @extend_schema(operation_id="notice_rules_secret", request=None, responses={201: NoticeSecretSerializer})
    def post(self, request: Request, workspace: str, rule: int) -> Response:
        """Sign with a new one from now on."""
        found = self.rule(rule)
        if found.channel != Channel.CALL:
            raise serializers.ValidationError("Only calls are signed; this rule sends mail.")
        record(self.workspace, self.person, "notice rule.secret", _about(found))
        return Response({"secret": _new_secret(found)}, status=status.HTTP_201_CREATED)


class NoticeSerializer(ReadOnlySerializer[Notice]):
    """A message, and what became of it."""

    rule = serializers.IntegerField(source="rule_id", read_only=True)
    channel = serializers.CharField(source="rule.channel", read_only=True)
    recipient = serializers.SerializerMethodField()

    class Meta:
        model = Notice
        fields = (
            "id",
            "rule",
            "channel",
            "recipient",
            "subject",
            "text",
            "state",
            "made_at",
            "sent_at",
            "tries",
            "failure",
        )

    @extend_schema_field(serializers.CharField())
    def get_recipient(self, notice: Notice) -> str:
        """The e-mail or the address."""
        return notice.rule.person.email if notice.rule.person else notice.rule.address


class NoticesView(InWorkspace, generics.ListAPIView[Notice]):
    """The messages that were sent, the newest first."""

    serializer_class = NoticeSerializer
    filterset_fields = ("state",)
    sort = ("-id",)

    def get_queryset(self) -> QuerySet[Notice]:
        """Of this workspace."""
        return self.own(Notice.objects.select_related("rule__person"))


def _new_secret(rule: NoticeRule) -> str:
    secret = new_signing_secret()
    NoticeRule.objects.filter(pk=rule.pk).update(sealed=vault.seal({"secret": secret}, owner=owner_of(rule)))
    return secret


def _written(amount: str, currency: str) -> str:
    try:
        return written(Decimal(amount), currency) or amount
    except NotExact:
        # What holds its document is told of as it came.
        return amount


def _zone(view: InWorkspace) -> str:
    first = Company.objects.filter(workspace=view.workspace).order_by("pk").values_list("time_zone", flat=True).first()
    return first or "UTC"


def _about(rule: NoticeRule) -> str:
    return rule.person.email if rule.person else rule.address[:100]
