"""What a sheet is asked for: the days, and the bridges."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import TypeVar

from django.db.models import Model, QuerySet

from inkwell_bridge.service.people.models import Workspace

_Row = TypeVar("_Row", bound=Model)


@dataclass(frozen=True, slots=True)
class Scope:
    """A period of a workspace, or of one of its bridges or companies; days by the company's own dates."""

    workspace: Workspace
    first: date
    last: date
    bridge: str = ""
    company: str = ""

    def of(self, rows: QuerySet[_Row], day: str = "date") -> QuerySet[_Row]:
        """Those of these figures, day totals or whatever else has such a ``day``, that are in it."""
        found = rows.filter(workspace=self.workspace, **{f"{day}__range": (self.first, self.last)})
        if self.bridge:
            found = found.filter(bridge__slug=self.bridge)
        return found.filter(bridge__company__slug=self.company) if self.company else found
