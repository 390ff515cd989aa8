"""What ends something for good is said first, and done once somebody has said that it is meant."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from inkwell_bridge.service.refusal import Refusal


def counted(number: int, noun: str) -> str:
    """A number with its noun, in the plural where it is not one."""
    return f"{number:,} {noun}" if number == 1 else f"{number:,} {noun}s"


class NotConfirmed(Refusal):
    """Nobody has said yet that this is meant; ``ends`` is what would end, a sentence each."""

    code = "not-confirmed"
    hint = "Send the same again with confirm, if this is meant."

    def __init__(self, what: str, ends: Sequence[str]) -> None:
        self._what, self._ends = what, list(ends)
        super().__init__(" ".join([what, *ends]))

    def members(self) -> dict[str, Any]:
        """What would be done, and what would end by it."""
        return {"what": self._what, "ends": self._ends}
