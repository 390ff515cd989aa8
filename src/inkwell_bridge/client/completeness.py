"""Calls about whether everything of some days was read."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from inkwell_bridge.client import models
from inkwell_bridge.client.period import days
from inkwell_bridge.client.transport import Transport


class CompletenessCalls:
    """What the sales side lists and counts, beside what is here."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def of_bridges(
        self, *, first: date | None = None, last: date | None = None, bridge: str = "", company: str = ""
    ) -> list[models.BridgeCompleteness]:
        """Of each bridge the newest check that has any of these days; without days, of the last whole month."""
        filters = {name: value for name, value in (("bridge", bridge), ("company", company)) if value}
        return self._transport.several(
            models.BridgeCompleteness, "GET", self._path, params={**filters, **days(first, last)}
        )

    def check(self, *, bridge: str, first: date | None = None, last: date | None = None) -> models.CompletenessCheck:
        """Have a bridge checked in the background; without days, over the last whole month."""
        body = {"bridge": bridge, **days(first, last)}
        return self._transport.one(models.CompletenessCheck, "POST", f"{self._path}/checks", body=body)

    def checks(self, *, bridge: str = "", company: str = "") -> Iterator[models.CompletenessCheckHead]:
        """The checks, newest first; of a bridge, or of a company."""
        filters = {name: value for name, value in (("bridge", bridge), ("company", company)) if value}
        return self._transport.pages(models.CompletenessCheckHead, f"{self._path}/checks", filters)

    def read(self, number: int) -> models.CompletenessCheck:
        """How far a check is, and what came of it."""
        return self._transport.one(models.CompletenessCheck, "GET", f"{self._path}/checks/{number}")

    def cancel(self, number: int) -> models.CompletenessCheckHead:
        """End one; what was fetched by then stays."""
        return self._transport.one(models.CompletenessCheckHead, "POST", f"{self._path}/checks/{number}/cancel")

    def lacking(
        self, *, first: date | None = None, last: date | None = None, bridge: str = "", company: str = "",
        reason: str = "",
    ) -> Iterator[models.Lacking]:  # fmt: skip
        """Documents that are not here, by what the newest check of each day found."""
        named = (("bridge", bridge), ("company", company), ("reason", reason))
        filters = {name: value for name, value in named if value}
        return self._transport.pages(models.Lacking, f"{self._path}/lacking", {**filters, **days(first, last)})
