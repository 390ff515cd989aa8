"""Writing the trail: in the same transaction as what it tells of."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.service.people.models import Person, TrailEntry, Workspace


def record(workspace: Workspace, person: Person | None, action: str, about: str, **details: Any) -> None:
    """Write that ``person`` (or the timetable, where there is none) did ``action``; never a secret.

    Of a change, ``details`` name what it is now, and ``was`` what it was before, under the same names.
    """
    TrailEntry.objects.create(workspace=workspace, person=person, action=action, about=about, details=details)
