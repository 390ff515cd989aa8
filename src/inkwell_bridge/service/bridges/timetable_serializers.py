"""A timetable outward: in words, in fields, as rules of RFC 5545; and read from any of these."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import time
from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.timetable import (
    LONGEST_RULE,
    LONGEST_WORDS,
    Times,
    coming,
    from_rule,
    from_words,
    in_words,
)
from inkwell_bridge.core.timetable import Timetable as Table
from inkwell_bridge.service.api.fields import Strict, TimeZoneField
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.models import Timetable

TIMES_SHOWN = 10
TIME_OF_DAY = re.compile(r"^([01]\d|2[0-3]):[0-5]\d$")


def _minute() -> serializers.RegexField:
    return serializers.RegexField(TIME_OF_DAY, help_text="Such as 18:30.")


class HoursSerializer(Strict):
    """From a time to a time of one day, both among them."""

    first = _minute()
    last = _minute()


class TimesOfDaySerializer(Strict):
    """The times of a day: either every so many minutes, perhaps within hours, or at certain times."""

    every_minutes = serializers.IntegerField(
        min_value=1, max_value=1440, required=False, allow_null=True, help_text="Minutes that go evenly into a day."
    )
    between = HoursSerializer(required=False, allow_null=True)
    at = serializers.ListField(child=_minute(), required=False, max_length=24)
    weekdays = serializers.ListField(
        child=serializers.IntegerField(min_value=0, max_value=6), required=False, max_length=7,
        help_text="0 is Monday; none: every day.",
    )  # fmt: skip


class DaysSerializer(Strict):
    """From a day to a day, both among them."""

    first = serializers.DateField()
    last = serializers.DateField()


class SeasonSerializer(Strict):
    """Days on which other times go instead of the ordinary ones."""

    days = DaysSerializer()
    times = TimesOfDaySerializer()


class TableSerializer(Strict):
    """A timetable in fields."""

    times = TimesOfDaySerializer()
    seasons = SeasonSerializer(many=True, required=False)
    pauses = DaysSerializer(many=True, required=False)


class TimetableSerializer(ReadOnlySerializer[Timetable]):
    """When a bridge, or a lane of it, runs by itself: by rules of RFC 5545, and in words."""

    words = serializers.SerializerMethodField()

    class Meta:
        model = Timetable
        fields: tuple[str, ...] = ("kind", "rule", "time_zone", "next_at", "words")

    def get_words(self, timetable: Timetable) -> str:
        """Such as: daily at 18:30 (Europe/London)."""
        return in_words(timetable.table)


class WholeTimetableSerializer(TimetableSerializer):
    """The same in fields, and with the next ten times; a list of bridges does without, for each time is worked out."""

    table = serializers.SerializerMethodField()
    coming = serializers.SerializerMethodField()

    class Meta(TimetableSerializer.Meta):
        fields = (*TimetableSerializer.Meta.fields, "table", "coming")

    @extend_schema_field(TableSerializer)
    def get_table(self, timetable: Timetable) -> dict[str, Any]:
        """In fields."""
        return in_fields(timetable.table)

    @extend_schema_field(serializers.ListField(child=serializers.DateTimeField()))
    def get_coming(self, timetable: Timetable) -> list[str]:
        """The first of them is ``next_at``."""
        later = coming(timetable.table, timetable.next_at, TIMES_SHOWN - 1)
        return [serializers.DateTimeField().to_representation(one) for one in (timetable.next_at, *later)]


def in_fields(table: Table) -> dict[str, Any]:
    """A timetable as :class:`TableSerializer` has it; times of a day without seconds."""

    def times(one: Times) -> dict[str, Any]:
        hours = one.between
        return {
            "every_minutes": one.every_minutes,
            "between": {"first": f"{hours.first:%H:%M}", "last": f"{hours.last:%H:%M}"} if hours else None,
            "at": [f"{at:%H:%M}" for at in one.at],
            "weekdays": list(one.weekdays),
        }

    return {
        "times": times(table.times),
        "seasons": [{"days": season.days.as_json(), "times": times(season.times)} for season in table.seasons],
        "pauses": [pause.as_json() for pause in table.pauses],
    }


class TimetableRequestSerializer(Strict):
    """One of: ``words``, ``table`` (in fields), ``rule`` (RFC 5545), ``every_minutes``, ``daily_at``."""

    words = serializers.CharField(required=False, max_length=LONGEST_WORDS, help_text="Such as: every hour on weekdays")
    table = TableSerializer(required=False)
    rule = serializers.CharField(required=False, max_length=LONGEST_RULE)
    every_minutes = serializers.IntegerField(min_value=1, max_value=1440, required=False)
    daily_at = serializers.RegexField(TIME_OF_DAY, required=False)
    time_zone = TimeZoneField(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Exactly one of them, and one that is understood."""
        said = [name for name in _READERS if name in attrs]
        if len(said) != 1:
            raise serializers.ValidationError(f"Expected exactly one of {', '.join(_READERS)}.")
        (name,) = said
        try:
            attrs["parsed"] = _READERS[name](attrs[name], attrs.get("time_zone") or self.context["time_zone"])
        except DocumentInvalid as error:
            place = f"{error.at}: " if error.at else ""
            raise serializers.ValidationError({name: [f"{place}{error.expected}"]}) from error
        except ValueError as error:
            raise serializers.ValidationError({name: [str(error)]}) from error
        return attrs

    def parsed(self) -> Table:
        """The timetable that was asked for."""
        table: Table = self.validated_data["parsed"]
        return table


def _of_fields(said: dict[str, Any], zone: str) -> Table:
    return Table.read({**said, "time_zone": zone})


_READERS: dict[str, Callable[[Any, str], Table]] = {
    "words": from_words,
    "table": _of_fields,
    "rule": from_rule,
    "every_minutes": lambda minutes, zone: _of_fields({"times": {"every_minutes": minutes}}, zone),
    "daily_at": lambda at, zone: Table(time_zone=zone, times=Times(at=(time.fromisoformat(at),))),
}
