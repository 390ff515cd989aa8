"""Serializers for what is only ever shown."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from operator import attrgetter
from typing import Any, TypeVar

from django.db.models import Model
from rest_framework import serializers

Row = TypeVar("Row", bound=Model)
# What stands in a row just as it is shown, unless the field reads it in a way of its own.
_PLAIN = (serializers.CharField, serializers.IntegerField, serializers.BooleanField, serializers.ChoiceField,
          serializers.SlugField, serializers.URLField, serializers.EmailField)  # fmt: skip


class ReadOnlySerializer(serializers.ModelSerializer[Row]):
    """A row as it is shown: every field read-only, so that the API's description promises each of them.

    How each field is read is made out once, and not for each row of a list.
    """

    def get_fields(self) -> dict[str, Any]:
        """See DRF's ``ModelSerializer.get_fields``."""
        fields: dict[str, Any] = super().get_fields()
        for field in fields.values():
            field.read_only = True
        return fields

    def to_representation(self, instance: Row) -> dict[str, Any]:
        """See DRF's ``Serializer.to_representation``."""
        shown = {}
        for name, read in self._readers:
            try:
                shown[name] = read(instance)
            except serializers.SkipField:
                continue
        return shown

    @cached_property
    def _readers(self) -> list[tuple[str, Callable[[Any], Any]]]:
        columns = {column.name for column in self.Meta.model._meta.concrete_fields}  # type: ignore[attr-defined]
        return [(str(field.field_name), _reader(field, field.source in columns)) for field in self._readable_fields]


def _reader(field: Any, is_column: bool) -> Callable[[Any], Any]:
    """How a field is read from a row and written; a column needs none of what DRF knows besides."""
    get, write = field.get_attribute, field.to_representation
    if is_column and isinstance(field, serializers.PrimaryKeyRelatedField) and field.pk_field is None:
        return attrgetter(f"{field.source}_id")
    if is_column and type(field).get_attribute is serializers.Field.get_attribute:
        get = attrgetter(field.source)
        if type(field) in _PLAIN:
            return get

    def read(row: Any) -> Any:
        found = get(row)
        return None if found is None else write(found)

    return read
