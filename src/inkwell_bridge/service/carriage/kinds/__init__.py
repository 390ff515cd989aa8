"""The kinds of document that the carriage knows: one registry, read by lanes, staging, carriage, totals and API."""

from __future__ import annotations

from functools import cache
from importlib import import_module

from django.conf import settings

from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.carriage.models import Crossing

_BUILT_IN = ("orders", "refunds", "customers", "opening_balances", "receipts", "requests", "request_payments",
             "bank_payments", "charges", "payouts", "arrivals", "entered_by_hand")  # fmt: skip
_registry: dict[str, Kind] = {}


class UnknownKind(LookupError):
    """A kind that nobody registered: its module is missing from ``INKWELL_KINDS`` here."""


def register(kind: Kind) -> Kind:
    """Add a kind. A module that is named in ``INKWELL_KINDS`` does this when it is imported."""
    _registry[kind.name] = kind
    all_kinds.cache_clear()
    return kind


@cache
def all_kinds() -> dict[str, Kind]:
    """Every kind by its name, those that came with the program first, in the order of the work."""
    modules = [*(f"{__name__}.{name}" for name in _BUILT_IN), *settings.KINDS]
    for module in modules:
        import_module(module)
    # One that somebody imported by itself before has registered itself already, and out of turn.
    places = {module: place for place, module in enumerate(modules)}
    in_turn = sorted(_registry.values(), key=lambda kind: places.get(type(kind).__module__, len(places)))
    return {kind.name: kind for kind in in_turn}


def lane_kinds() -> list[Kind]:
    """The kinds that have a lane."""
    return [kind for kind in all_kinds().values() if kind.has_lane]


def kind_named(name: str) -> Kind:
    """The kind of that name.

    Raises:
        UnknownKind: nobody registered it.
    """
    try:
        return all_kinds()[name]
    except KeyError as error:
        raise UnknownKind(f"No kind of document is called {name!r} here.") from error


def kind_of(crossing: Crossing) -> Kind:
    """The kind of a crossing."""
    return kind_named(crossing.kind)
