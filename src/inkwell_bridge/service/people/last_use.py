"""When something was used last, written down now and then: for every call would be a write else."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone

NOTED_EVERY = timedelta(minutes=5)


def note_use(row: QuerySet[Any], last_used_at: datetime | None) -> None:
    """Write that the ``row`` is used, unless that stands there already."""
    now = timezone.now()
    if last_used_at is None or last_used_at < now - NOTED_EVERY:
        row.update(last_used_at=now)
