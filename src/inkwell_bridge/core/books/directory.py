"""The two long lists of the books, read page by page: their items and their contacts."""

from __future__ import annotations

from enum import StrEnum


class Directory(StrEnum):
    """A long list."""

    ITEMS = "items"
    CONTACTS = "contacts"
