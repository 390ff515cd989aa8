"""The text of rules changed value by value, looked at and not kept."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.rulebook import inherited, read_base, values_of
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.patching import NotPatched, Operation, patched
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.bridges import bases, rules
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.people.roles import Role

MOST_OPERATIONS = 200


class OperationSerializer(serializers.Serializer[Any]):
    """One operation of a JSON Patch (RFC 6902); ``from`` goes with ``move``, ``value`` with ``add`` and ``replace``."""

    op = serializers.ChoiceField(choices=["add", "remove", "replace", "move"])
    path = serializers.CharField(max_length=1000, allow_blank=True, trim_whitespace=False)
    value = serializers.JSONField(required=False, allow_null=True)

    def get_fields(self) -> dict[str, Any]:
        """With ``from``, which is no name in Python."""
        where = serializers.CharField(max_length=1000, required=False, trim_whitespace=False)
        return {**super().get_fields(), "from": where}

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Pointers that are some, and what each operation needs."""
        for name in ("path", "from"):
            if attrs.get(name) and not attrs[name].startswith("/"):
                raise serializers.ValidationError({name: ["A JSON Pointer begins with a slash."]})
        if attrs["op"] == "move" and not attrs.get("from"):
            raise serializers.ValidationError({"from": ["Expected the pointer that is moved."]})
        if attrs["op"] in {"add", "replace"} and "value" not in attrs:
            raise serializers.ValidationError({"value": ["Expected the value to be set."]})
        return attrs


class EditRequestSerializer(serializers.Serializer[Any]):
    """A text of rules, and what is to be changed in it; without operations it is only looked at."""

    text = serializers.CharField(max_length=200_000, trim_whitespace=False)
    operations = OperationSerializer(many=True, max_length=MOST_OPERATIONS, default=list)


class EditedSerializer(serializers.Serializer[Any]):
    """The text afterwards, what it says as values, what the rulebooks say that it builds on, what all of it says
    together, and what is wrong with it. Numbers among the values are texts."""

    text = serializers.CharField()
    values = serializers.SerializerMethodField()
    inherited = serializers.SerializerMethodField()
    effective = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)

    @extend_schema_field(serializers.JSONField())
    def get_values(self, edited: dict[str, Any]) -> Any:
        """As JSON values."""
        return edited["values"]

    @extend_schema_field(serializers.JSONField())
    def get_inherited(self, edited: dict[str, Any]) -> Any:
        """What it builds on, as JSON values; nothing where it builds on nothing."""
        return edited["inherited"]

    @extend_schema_field(serializers.JSONField())
    def get_effective(self, edited: dict[str, Any]) -> Any:
        """The same; nothing where it cannot be read."""
        return edited["effective"]


class EditView(OneBridge):
    """Editing rules."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="rulebooks_edit", request=EditRequestSerializer, responses=EditedSerializer)
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Change single values; comments, order and spelling of all else stay. Nothing is kept: write it as a draft.

        A text that is no rulebook (any more) is answered as well, with what is wrong in it.
        """
        text, values = _edited(request)
        bridge = self.bridge()
        edited: dict[str, Any] = {"text": text, "values": values, "inherited": None, "effective": None}
        try:
            edited["inherited"] = inherited(text, base=bases.Below(self.workspace))
            version = rules.unsaved(bridge, text)
            edited["findings"] = rules.findings_of(version)
            edited["effective"] = rules.parsed(version).as_json()
        except RulebookInvalid as error:
            edited["findings"] = error.findings
        return Response(EditedSerializer(edited).data)


class BuiltSerializer(serializers.Serializer[Any]):
    """A bridge that builds on a base, and what its newest rules say themselves: a change of the base does not reach
    that."""

    bridge = serializers.CharField()
    values = serializers.SerializerMethodField()

    @extend_schema_field(serializers.JSONField())
    def get_values(self, built: dict[str, Any]) -> Any:
        """As JSON values."""
        return built["values"]


class EditedBaseSerializer(EditedSerializer):
    """The same of a base rulebook, with the bridges that build on it. ``effective`` is absent: much may be
    missing in a base."""

    bridges = BuiltSerializer(many=True)


class EditBaseView(InWorkspace):
    """Editing what bridges build on."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="base_rulebooks_edit", request=EditRequestSerializer, responses=EditedBaseSerializer)
    def post(self, request: Request, workspace: str, name: str) -> Response:
        """Change single values of a base rulebook; comments, order and spelling of all else stay. Nothing is kept."""
        text, values = _edited(request, name)
        edited: dict[str, Any] = {"text": text, "values": values, "inherited": None, "effective": None, "findings": ()}
        try:
            read_base(text, file=name, base=bases.Below(self.workspace))
            edited["inherited"] = inherited(text, base=bases.Below(self.workspace))
        except RulebookInvalid as error:
            edited["findings"] = error.findings
        base = bases.newest(self.workspace, name)
        edited["bridges"] = [
            {"bridge": version.bridge.slug, "values": values_of(version.text)}
            for version in (bases.built_on(base) if base else ())
        ]
        return Response(EditedBaseSerializer(edited).data)


def _edited(request: Request, file: str = "rulebook.yaml") -> tuple[str, Any]:
    """The text that a request leads to, and its values.

    Raises:
        RulebookInvalid: it is no YAML, with the line from which on it cannot be read.
    """
    given = EditRequestSerializer(data=request.data)
    given.is_valid(raise_exception=True)
    said = given.validated_data
    try:
        values_of(said["text"], file=file)
        text = patched(said["text"], [_operation(one) for one in said["operations"]])
    except NotPatched as error:
        raise serializers.ValidationError({"operations": [str(error)]}) from error
    return text, values_of(text, file=file)


def _operation(said: dict[str, Any]) -> Operation:
    return Operation(op=said["op"], path=said["path"], from_path=said.get("from", ""), value=_exact(said.get("value")))


def _exact(value: Any) -> Any:
    """Numbers as they were written: the shortest that a binary fraction is read from again."""
    if isinstance(value, float):
        return Decimal(repr(value))
    if isinstance(value, dict):
        return {name: _exact(one) for name, one in value.items()}
    if isinstance(value, list):
        return [_exact(one) for one in value]
    return value
