"""Fields that several rooms take."""

from __future__ import annotations

import re
from datetime import date
from typing import Any
from zoneinfo import available_timezones

from django.core.exceptions import ValidationError
from rest_framework import serializers

from inkwell_bridge.core.values import FIRST_YEAR, LAST_YEAR

_SLUG = re.compile(r"[-a-zA-Z0-9_]{1,100}")


class Strict(serializers.Serializer[Any]):
    """What a call takes that needs nothing: a field it does not know is a mistake, not something to pass over."""

    def to_internal_value(self, data: Any) -> Any:
        """Refuse fields that are not there."""
        unknown = sorted(set(data) - set(self.fields)) if isinstance(data, dict) else []
        if unknown:
            known = ", ".join(self.fields)
            raise serializers.ValidationError({name[:60]: [f"Expected only {known}."] for name in unknown[:10]})
        return super().to_internal_value(data)


def of_our_time(day: date) -> None:
    """Refuse days that no book has, and that no clock of a time zone reaches from.

    Raises:
        ValidationError: the year is none from 1900 to 2200.
    """
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise ValidationError(f"Expected a day from {FIRST_YEAR} to {LAST_YEAR}.")


class BySlug(serializers.SlugRelatedField[Any]):
    """Something that there is, by its slug. What can be none is not looked for: a database takes no U+0000."""

    def __init__(self, **options: Any) -> None:
        super().__init__(slug_field="slug", **options)

    def to_internal_value(self, data: Any) -> Any:
        """Refuse what is no slug as what is not there."""
        if not isinstance(data, str):
            self.fail("invalid")
        if not _SLUG.fullmatch(data):
            # Half a surrogate pair could not even be answered.
            self.fail("does_not_exist", slug_name="slug", value=data[:100].encode("utf-8", "replace").decode())
        return super().to_internal_value(data)


class TimeZoneField(serializers.CharField):
    """The name of an IANA time zone."""

    def __init__(self, **options: Any) -> None:
        super().__init__(max_length=60, **options)

    def to_internal_value(self, data: Any) -> str:
        """Refuse what is no time zone."""
        name: str = super().to_internal_value(data)
        if name not in available_timezones():
            raise serializers.ValidationError(f"Expected a time zone such as Europe/London, got {name!r}.")
        return name
