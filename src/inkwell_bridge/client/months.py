"""Calls about a month of a company."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class MonthCalls:
    """One month: what is open in it, accepting that, closing it, and its report."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def read(self) -> models.Month:
        """Whether it ties, what is open, what was accepted, whether it is closed, and what changed since."""
        return self._transport.one(models.Month, "GET", self._path)

    def accept(self, item: models.OpenItem, note: str) -> models.Month:
        """Accept an open item as it was read; once it has other documents or amounts it is open again."""
        # With its fingerprint, so that nothing is accepted that came in after it was read.
        body = {"reason": item.reason, "detail": item.detail, "fingerprint": item.fingerprint, "note": note}
        return self._transport.one(models.Month, "POST", f"{self._path}/acceptances", body=body)

    def not_accept(self, number: int) -> models.Month:
        """Take an acceptance back."""
        return self._transport.one(models.Month, "DELETE", f"{self._path}/acceptances/{number}")

    def propose(self, note: str = "") -> models.Month:
        """Propose to close it, so that another person does."""
        return self._transport.one(models.Month, "POST", f"{self._path}/proposal", body={"note": note})

    def not_propose(self) -> models.Month:
        """Propose it no longer."""
        return self._transport.one(models.Month, "DELETE", f"{self._path}/proposal")

    def close(self, note: str = "") -> models.Month:
        """Close it: its figures are frozen."""
        return self._transport.one(models.Month, "POST", f"{self._path}/close", body={"note": note})

    def reopen(self, note: str) -> models.Month:
        """Open it again; only an owner may."""
        return self._transport.one(models.Month, "POST", f"{self._path}/reopen", body={"note": note})

    def changes(self) -> Iterator[models.ChangedDocument]:
        """The documents that are otherwise in it than when it was closed; fetched page by page."""
        after: int | None = 0
        while after is not None:
            page = self._transport.one(models.ChangedPage, "GET", f"{self._path}/changes", query={"after": after})
            yield from page.documents
            after = page.after

    def report(self, form: str = "pdf", language: str = "") -> bytes:
        """The report as ``pdf``, ``xlsx`` or ``json``; in a language (en, de, fr), or else in the company's."""
        query = {"form": form, **({"language": language} if language else {})}
        return self._transport.content(f"{self._path}/report", query=query)
