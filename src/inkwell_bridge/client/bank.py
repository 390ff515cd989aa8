"""Calls about one bank account."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class BankAccountCalls:
    """Its statements and lines, and what each of them is."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def read(self) -> models.BankAccount:
        """What is known of it."""
        return self._transport.one(models.BankAccount, "GET", self._path)

    def change(self, **fields: Any) -> models.BankAccount:
        """Give it another name or layout."""
        return self._transport.one(models.BankAccount, "PATCH", self._path, body=fields)

    def remove(self) -> None:
        """Remove it; one that has lines stays."""
        self._transport.send("DELETE", self._path)

    def statements(self) -> Iterator[models.StatementFile]:
        """The files that were given, the newest first, those that were refused among them."""
        return self._transport.pages(models.StatementFile, f"{self._path}/statements")

    def take(self, name: str, content: bytes) -> models.TakenFile:
        """Take a file (camt.053, camt.054, or a table by the account's layout), all of it or nothing."""
        return self._transport.one(
            models.TakenFile, "POST", f"{self._path}/statements", form={}, file=("file", name, content)
        )

    def lines(self, **filters: Any) -> Iterator[models.BankLine]:
        """The lines, the oldest first; filters: state (open, matched, excluded), first_day, last_day."""
        return self._transport.pages(models.BankLine, f"{self._path}/lines", filters)

    def unmatched(self) -> models.Unmatched:
        """What is awaited there: payouts, and money that the bank tells of; and which open lines may be which of it."""
        return self._transport.one(models.Unmatched, "GET", f"{self._path}/unmatched")

    def match(self, lines: Sequence[int], crossings: Sequence[int], note: str = "") -> list[models.BankLine]:
        """Match lines to what is awaited, by the numbers of its crossings: payouts to the same sum, money of buyers
        also in parts."""
        body = {"lines": list(lines), "crossings": list(crossings), "note": note}
        return self._transport.several(models.BankLine, "POST", f"{self._path}/matches", body=body)

    def take_back(self, line: int) -> models.BankLine:
        """Take back what a line was matched to; what was posted of it is posted the other way round."""
        return self._transport.one(models.BankLine, "DELETE", f"{self._path}/lines/{line}/match")

    def exclude(self, lines: Sequence[int], note: str) -> int:
        """Say that these lines are nothing awaited, and why; answers how many were open."""
        return self._mark(lines, "excluded", note)

    def open_again(self, lines: Sequence[int]) -> int:
        """Look at lines again that were excluded; answers how many."""
        return self._mark(lines, "open", "")

    def _mark(self, lines: Sequence[int], state: str, note: str) -> int:
        body = {"lines": list(lines), "state": state, "note": note}
        return self._transport.one(models.ChangedLines, "PATCH", f"{self._path}/lines", body=body).changed
