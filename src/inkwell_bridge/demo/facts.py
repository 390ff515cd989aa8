"""Reading the facts of the demo client."""

from __future__ import annotations

from functools import cache
from importlib import resources
from typing import Any

import yaml


def _text(name: str) -> str:
    return resources.files("inkwell_bridge.demo").joinpath(name).read_text("utf-8")


@cache
def facts() -> dict[str, Any]:
    """The one file of facts."""
    return yaml.safe_load(_text("facts.yaml"))  # type: ignore[no-any-return]


@cache
def expected() -> dict[str, Any]:
    """What must come of the first sixty orders, figure by figure."""
    return yaml.safe_load(_text("expected.yaml"))  # type: ignore[no-any-return]


@cache
def expected_month() -> dict[str, Any]:
    """What must come of the whole month, bridge by bridge, figure by figure."""
    return yaml.safe_load(_text("month.yaml"))  # type: ignore[no-any-return]


@cache
def expected_afterwards() -> dict[str, Any]:
    """What must come of the changes after October was carried, document by document."""
    return yaml.safe_load(_text("afterwards.yaml"))  # type: ignore[no-any-return]


@cache
def expected_payouts() -> dict[str, Any]:
    """What must come of the month's payouts, account by account."""
    return yaml.safe_load(_text("payouts.yaml"))  # type: ignore[no-any-return]


@cache
def expected_of_peers() -> dict[str, Any]:
    """What must come of the orders placed at the real storefront, figure by figure."""
    return yaml.safe_load(_text("peers.yaml"))  # type: ignore[no-any-return]


def rulebook_text(bridge: str = "web-shop-to-uk-books") -> str:
    """The rulebook of one of the demo's bridges."""
    return _text(f"rulebooks/{bridge}.yaml")
