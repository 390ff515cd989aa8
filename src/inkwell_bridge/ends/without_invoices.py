"""Books that do not tell of their invoices."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import ClassVar

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends.errors import NotOffered
from inkwell_bridge.ends.shapes import Fetched


class WithoutInvoices:
    """What such books answer to what is asked of invoices: nothing of it is offered."""

    END_NAME: ClassVar[str]

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``BooksEnd.document``."""
        raise NotOffered(self.END_NAME, f"{kind} by their numbers")

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``BooksEnd.fetch_by_ids``."""
        raise NotOffered(self.END_NAME, f"{kind} by their ids")

    def note_on(self, role: Role, record_id: str, fields: Mapping[str, str]) -> None:
        """See ``BooksEnd.note_on``."""
        raise NotOffered(self.END_NAME, f"fields on a posted {role}")
