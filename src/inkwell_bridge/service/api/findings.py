"""Findings, as the API tells them."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers


class FindingSerializer(serializers.Serializer[Any]):
    """One thing a check has to say."""

    id = serializers.CharField()
    level = serializers.ChoiceField(choices=["note", "warning", "error"])
    text = serializers.CharField()
    hint = serializers.CharField()
    at = serializers.CharField()
    line = serializers.IntegerField(allow_null=True)
    cause = serializers.CharField(allow_null=True)
