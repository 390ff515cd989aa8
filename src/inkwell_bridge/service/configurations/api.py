"""The configuration of a bridge: handed out as one document, compared, applied."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.parsers import FormParser, MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.configuration import Configuration
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.text import fit
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.bridges.api import WITH_PARTS, OneBridge
from inkwell_bridge.service.configurations import applying
from inkwell_bridge.service.configurations.reading import configuration_of
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.refusal import Refusal

LARGEST_BYTES = 20_000_000


class UnreadableConfiguration(Refusal):
    """A file is no configuration."""

    status = 422
    code = "unreadable-configuration"
    hint = "Take a configuration out first (bridges pull): the file has the same shape, bridge-configuration-1."


class WhichConfigurationSerializer(serializers.Serializer[Any]):
    """A configuration: a ``file`` (bridge-configuration-1, JSON), or that of another ``bridge`` of the workspace."""

    file = serializers.FileField(max_length=200, required=False)
    bridge = serializers.SlugField(max_length=60, required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Exactly one of the two."""
        if ("file" in attrs) == ("bridge" in attrs):
            raise serializers.ValidationError("Expected either a file or the name of a bridge.")
        return attrs


class ApplyConfigurationSerializer(WhichConfigurationSerializer):
    """One to be applied. ``leave_missing``: without what is not here; ``publish``: its rules go in force."""

    leave_missing = serializers.BooleanField(default=False)
    publish = serializers.BooleanField(default=True)


class MissingSerializer(serializers.Serializer[Any]):
    """Something that a configuration names and that is not here."""

    of = serializers.CharField()
    text = serializers.CharField()


class DifferenceSerializer(serializers.Serializer[Any]):
    """One thing that would change, or has changed; ``at`` is a place in that part of the configuration."""

    of = serializers.CharField()
    text = serializers.CharField()
    at = serializers.CharField()


class ComparisonSerializer(serializers.Serializer[Any]):
    """What a configuration comes to on a bridge; ``rulebook`` is the version that was written, if one was."""

    missing = MissingSerializer(many=True)
    missing_count = serializers.IntegerField()
    differences = DifferenceSerializer(many=True)
    findings = FindingSerializer(many=True)
    applied = serializers.BooleanField()
    rulebook = serializers.IntegerField(source="rulebook.number", default=None, allow_null=True)


class ConfigurationView(OneBridge):
    """The configuration of a bridge as one document."""

    @extend_schema(
        operation_id="configurations_read",
        parameters=[OpenApiParameter("links", bool, description="With the links by code; true without it.")],
        responses={(200, "application/json"): OpenApiTypes.OBJECT},
    )
    def get(self, request: Request, workspace: str, bridge: str) -> HttpResponse:
        """Rules, what they build on, lanes, timetable, links by code (bridge-configuration-1); never a secret."""
        links = str(request.query_params.get("links", "true")).lower() not in {"false", "0"}
        found = configuration_of(self.bridge(), links=links)
        text = json.dumps(found.as_json(), ensure_ascii=False, indent=1)
        answer = HttpResponse(text, content_type="application/json")
        answer["Content-Disposition"] = f'attachment; filename="{bridge}-configuration.json"'
        return answer


class _WithConfiguration(OneBridge):
    """A view that is given a configuration."""

    parser_classes = (MultiPartParser, FormParser)

    def given(self, said: dict[str, Any]) -> Configuration:
        """The configuration that a request brings or names.

        Raises:
            UnreadableConfiguration: the file is none.
        """
        if "bridge" in said:
            return configuration_of(self.named(WITH_PARTS, "bridge", said["bridge"]))
        file = said["file"]
        if file.size > LARGEST_BYTES:
            raise UnreadableConfiguration(f"At most {LARGEST_BYTES:,} bytes are read; this file has {file.size:,}.")
        try:
            found = json.loads(file.read().decode())
            if fit(found) != found:
                raise UnreadableConfiguration("The file holds what no text may hold: U+0000, or half a surrogate pair.")
            return Configuration.read(found, file="the configuration")
        except (ValueError, RecursionError) as error:
            raise UnreadableConfiguration("The file is no JSON in UTF-8.") from error
        except DocumentInvalid as error:
            raise UnreadableConfiguration(f"The file is no configuration: {error}") from error


class CompareConfigurationView(_WithConfiguration):
    """Comparing a configuration with that of a bridge."""

    needs = {"POST": Role.SEE}

    @extend_schema(
        operation_id="configurations_compare", request=WhichConfigurationSerializer, responses=ComparisonSerializer
    )
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Say what would change here, and name what is not here; nothing is kept."""
        given = WhichConfigurationSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = applying.compared(self.bridge(), self.given(given.validated_data), self.person)
        return Response(ComparisonSerializer(found).data)


class ApplyConfigurationView(_WithConfiguration):
    """Applying a configuration to a bridge."""

    needs = {"POST": Role.PUBLISH}

    @extend_schema(
        operation_id="configurations_apply", request=ApplyConfigurationSerializer, responses=ComparisonSerializer
    )
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Set the bridge up like that, in one step: all of it, or nothing."""
        given = ApplyConfigurationSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        there = self.given(said)
        found = applying.applied(
            self.bridge(), there, self.person, leave_missing=said["leave_missing"], publish=said["publish"]
        )
        return Response(ComparisonSerializer(found).data)
