"""Serializers for what is only ever shown."""

from __future__ import annotations

from typing import Any, TypeVar

from django.db.models import Model
from rest_framework import serializers

Row = TypeVar("Row", bound=Model)


class ReadOnlySerializer(serializers.ModelSerializer[Row]):
    """A row as it is shown: every field read-only, so that the API's description promises each of them."""

    def get_fields(self) -> dict[str, Any]:
        """See DRF's ``ModelSerializer.get_fields``."""
        fields: dict[str, Any] = super().get_fields()
        for field in fields.values():
            field.read_only = True
        return fields
