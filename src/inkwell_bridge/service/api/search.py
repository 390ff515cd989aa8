"""Searching lists of names."""

from __future__ import annotations

from typing import Any

import django_filters
from django.db.models import QuerySet

# More than so many words narrow nothing any more.
MOST_WORDS = 8


def by_words(rows: QuerySet[Any], text: str) -> QuerySet[Any]:
    """Those whose ``search`` holds every word of a text, whatever its case."""
    for word in text.lower().split()[:MOST_WORDS]:
        rows = rows.filter(search__contains=word)
    return rows


class WordFilter(django_filters.FilterSet):
    """A list that is searched as ``q``."""

    q = django_filters.CharFilter(method="search", help_text="Part of a code, name or e-mail.")

    def search(self, rows: QuerySet[Any], name: str, text: str) -> QuerySet[Any]:
        """Every word must be there."""
        return by_words(rows, text)
