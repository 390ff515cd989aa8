"""What is said of a name that nothing has."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet

from inkwell_bridge.core.rulebook.near import near_miss

# So many names are looked at for one that was meant.
MOST_NAMED = 200


def not_here(what: str, slug: str, rows: QuerySet[Any]) -> str:
    """That there is no such thing, and the near one of ``rows``, or all that there are."""
    slugs = rows.order_by("slug").values_list("slug", flat=True)[:MOST_NAMED]
    return f"There is no {what} {slug!r} here. {near_miss(slug, slugs)}".rstrip()
