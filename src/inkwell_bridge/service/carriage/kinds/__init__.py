"""The kinds of document that the carriage knows: one registry, read by lanes, staging, carriage, totals and API."""

from __future__ import annotations

from importlib import import_module

from django.conf import settings

from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.carriage.models import Crossing

_BUILT_IN = ("orders", "refunds", "customers", "opening_balances", "receipts", "requests", "request_payments",
             "payouts", "arrivals")  # fmt: skip
_registry: dict[str, Kind] = {}


class UnknownKind(LookupError):
    """A kind that nobody registered: its module is missing from ``INKWELL_KINDS`` here."""


def register(kind: Kind) -> Kind:
    """Add a kind. A module that is named in ``INKWELL_KINDS`` does this when it is imported."""
    _registry[kind.name] = kind
    return kind


def all_kinds() -> dict[str, Kind]:
    """Every kind by its name, those that came with the program first."""
    if not _registry:
        for name in _BUILT_IN:
            import_module(f"{__name__}.{name}")
        for module in settings.KINDS:
            import_module(module)
    return _registry


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
