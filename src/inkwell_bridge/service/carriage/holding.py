"""Stopping a crossing for a person."""

from __future__ import annotations

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Cause, Finding, Level


class Hold(InkwellError):
    """A crossing must wait for a person; the finding says why and what to do."""

    def __init__(self, finding: Finding) -> None:
        self.finding = finding
        super().__init__(finding.text)


def hold(code: str, cause: Cause, text: str, hint: str) -> Hold:
    """A hold with a finding of its own."""
    return Hold(Finding(id=code, level=Level.ERROR, text=text, hint=hint, cause=cause))
