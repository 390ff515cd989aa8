"""Calls about the daily rates of one company."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class ExchangeRateCalls:
    """The table of daily rates that documents in other currencies may go by."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def all(self, **filters: Any) -> Iterator[models.DailyRate]:
        """The rates, the newest first; filters: currency, first_day, last_day."""
        return self._transport.pages(models.DailyRate, self._path, filters)

    def keep(self, rates: Sequence[Mapping[str, str]], *, source: str = "") -> models.KeptRates:
        """Keep rates, each with currency, day and rate; one of a day that has one takes its place."""
        body = {"rates": [dict(one) for one in rates], "source": source}
        return self._transport.one(models.KeptRates, "PUT", self._path, body=body)

    def load(self, name: str, content: bytes, *, source: str = "") -> models.KeptRates:
        """Keep the rates of a file (columns day, currency and rate), all of them or none."""
        return self._transport.one(
            models.KeptRates, "POST", f"{self._path}/file", form={"source": source}, file=("file", name, content)
        )

    def remove(self, currency: str, day: date) -> None:
        """Take one out of the table; what was posted at it stays."""
        self._transport.send("DELETE", f"{self._path}/{currency}/{day.isoformat()}")
