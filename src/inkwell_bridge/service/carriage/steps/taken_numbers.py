"""Legal numbers that the books refused, for another document bears them."""

from __future__ import annotations

from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Effects, Save
from inkwell_bridge.service.carriage.models import Document

# Where they are kept with a crossing.
TAKEN_NUMBERS = "taken_numbers"


def keep_taken(carrying: Carrying, document: Document) -> Effects[None]:
    """Remember the number that the books refused, so that planning goes on to the next one."""
    crossing, number = carrying.crossing, str((document.planned or {}).get("number", ""))
    crossing.pinned = {**crossing.pinned, TAKEN_NUMBERS: [*crossing.pinned.get(TAKEN_NUMBERS, ()), number]}
    yield Save((crossing,), ("pinned", "updated_at"))
