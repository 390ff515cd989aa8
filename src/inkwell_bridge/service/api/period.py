"""Some days that something is asked about."""

from __future__ import annotations

import calendar
from datetime import date, timedelta
from typing import Any

from rest_framework import serializers

from inkwell_bridge.service import clock
from inkwell_bridge.service.api.fields import Strict, of_our_time

LONGEST_PERIOD = timedelta(days=400)


class PeriodSerializer(Strict):
    """Days of past documents, both counted; without them, the last whole month."""

    first = serializers.DateField(required=False, validators=[of_our_time])
    last = serializers.DateField(required=False, validators=[of_our_time])

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The last whole month where nothing is said; the days in order, and not too many."""
        month = clock.now().date().replace(day=1) - timedelta(days=1)
        attrs.setdefault("first", attrs.get("last", month).replace(day=1))
        attrs.setdefault("last", _end_of_month(attrs["first"]))
        if attrs["first"] > attrs["last"]:
            raise serializers.ValidationError({"last": ["The last day lies before the first."]})
        if attrs["last"] - attrs["first"] > LONGEST_PERIOD:
            raise serializers.ValidationError({"last": [f"At most {LONGEST_PERIOD.days} days at a time."]})
        return attrs


def _end_of_month(day: date) -> date:
    return day.replace(day=calendar.monthrange(day.year, day.month)[1])
