"""The text of rules changed value by value, looked at and not kept."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.patching import NotPatched, Operation, patched
from inkwell_bridge.core.rulebook.yaml_lines import NotYaml, read_with_lines
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.bridges import rules
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
    """The text afterwards, what it says as values, what it says together with the rulebooks that it builds on, and
    what is wrong with it. Numbers among the values are texts."""

    text = serializers.CharField()
    values = serializers.SerializerMethodField()
    effective = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)

    @extend_schema_field(serializers.JSONField())
    def get_values(self, edited: dict[str, Any]) -> Any:
        """As JSON values."""
        return edited["values"]

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
        given = EditRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        try:
            text = patched(said["text"], [_operation(one) for one in said["operations"]])
            values = read_with_lines(text)[0]
        except NotPatched as error:
            raise serializers.ValidationError({"operations": [str(error)]}) from error
        except NotYaml as error:
            raise serializers.ValidationError({"text": [f"Line {error.line}: {error.reason}."]}) from error
        effective: Any = None
        try:
            version = rules.unsaved(self.bridge(), text)
            findings = rules.findings_of(version)
            effective = rules.parsed(version).as_json()
        except RulebookInvalid as error:
            findings = error.findings
        return Response(EditedSerializer({"text": text, "values": values, "effective": effective,
                                          "findings": findings}).data)  # fmt: skip


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
