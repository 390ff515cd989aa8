"""Calls about the sheet of a period."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class SheetCalls:
    """The sheet of a period: without one, of the current month; of all bridges, or of one of them or of a company."""

    def __init__(
        self, transport: Transport, path: str, *, first: date | None, last: date | None, bridge: str | None,
        company: str | None,
    ) -> None:  # fmt: skip
        self._transport, self._path = transport, f"{path}/tie-out"
        self._query: dict[str, Any] = {
            "first": first and first.isoformat(), "last": last and last.isoformat(), "bridge": bridge,
            "company": company,
        }  # fmt: skip

    def read(self) -> models.TieOut:
        """The whole sheet."""
        return self._transport.one(models.TieOut, "GET", self._path, query=self._query)

    def days(self) -> list[models.SheetRow]:
        """Its headline day by day."""
        return self._transport.several(models.SheetRow, "GET", f"{self._path}/days", query=self._query)

    def bridges(self) -> list[models.SheetRow]:
        """Its headline bridge by bridge."""
        return self._transport.several(models.SheetRow, "GET", f"{self._path}/bridges", query=self._query)

    def payouts(self) -> list[models.PaidOut]:
        """What was paid out, kind by kind: as providers tell it, and as the books hold it."""
        return self._transport.several(models.PaidOut, "GET", f"{self._path}/payouts", query=self._query)

    def documents(self, **wanted: str) -> Iterator[models.BehindDocument]:
        """The source documents behind an amount: ``section``, ``currency``, ``tax_code``, ``tender``,
        ``connection`` and ``account``, ``reason`` and ``detail``, as in its row; by number, fetched page by page."""
        after: int | None = 0
        while after is not None:
            page = self._transport.one(
                models.BehindPage, "GET", f"{self._path}/documents", query={**self._query, **wanted, "after": after}
            )
            yield from page.documents
            after = page.after
