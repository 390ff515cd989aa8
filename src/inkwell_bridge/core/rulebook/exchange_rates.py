"""Where the rate of a foreign currency comes from."""

from __future__ import annotations

from typing import Literal

from pydantic import field_validator

from inkwell_bridge.core.values import Value

RateSource = Literal["order", "payment", "table"]
RATE_SOURCES: tuple[RateSource, ...] = ("order", "payment", "table")


class ExchangeRateRules(Value):
    """Where rates come from: the first of ``taken_from`` that has one for a document.

    Shape: ``order`` is the rate that the sales side tells with an order, ``payment`` the one that its money was settled
    at, ``table`` the daily rates that were loaded or entered. A rate of the table holds for ``oldest_days``.
    """

    taken_from: tuple[RateSource, ...] = RATE_SOURCES
    oldest_days: int = 7

    @field_validator("taken_from", mode="before")
    @classmethod
    def _one_is_a_list(cls, given: object) -> object:
        return [given] if isinstance(given, str) else given
