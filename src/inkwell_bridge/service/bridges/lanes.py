"""The kinds of document that have a lane; the carriage, which stands above, tells them when the service starts."""

from __future__ import annotations

_names: list[str] = []


def offer_lane(name: str) -> None:
    """Let bridges have a lane for a kind of document."""
    if name not in _names:
        _names.append(name)


def lane_names() -> tuple[str, ...]:
    """Every kind that has a lane, in the order in which they were offered."""
    return tuple(_names)
