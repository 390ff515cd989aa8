"""Some days, as calls take them."""

from __future__ import annotations

from datetime import date


def days(first: date | None, last: date | None) -> dict[str, str]:
    """The first and the last day; one that is not named is left to the service."""
    return {name: day.isoformat() for name, day in (("first", first), ("last", last)) if day is not None}
