"""Calls about accounts of money and their proofs."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from inkwell_bridge.client import models
from inkwell_bridge.client.period import days
from inkwell_bridge.client.transport import Transport


class ClearingCalls:
    """Which accounts of money there are, and whether the books have on them what was posted from here."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def accounts(self) -> list[models.MoneyAccount]:
        """Every account of money that the rules in force name, with the newest proof of it."""
        return self._transport.several(models.MoneyAccount, "GET", f"{self._path}/accounts")

    def prove(
        self, *, books: str, account: str, first: date | None = None, last: date | None = None
    ) -> models.ClearingProof:
        """Have an account proved in the background; without days, over the last whole month."""
        body = {"books": books, "account": account, **days(first, last)}
        return self._transport.one(models.ClearingProof, "POST", f"{self._path}/proofs", body=body)

    def proofs(self, *, books: str = "", account: str = "") -> Iterator[models.ClearingProofHead]:
        """The proofs, newest first; of some books, or of one account."""
        filters = {name: value for name, value in (("books", books), ("account", account)) if value}
        return self._transport.pages(models.ClearingProofHead, f"{self._path}/proofs", filters)

    def proof(self, number: int) -> models.ClearingProof:
        """How far a proof is, and what came of it."""
        return self._transport.one(models.ClearingProof, "GET", f"{self._path}/proofs/{number}")

    def cancel(self, number: int) -> models.ClearingProofHead:
        """End one; one that has ended stays as it is."""
        return self._transport.one(models.ClearingProofHead, "POST", f"{self._path}/proofs/{number}/cancel")
