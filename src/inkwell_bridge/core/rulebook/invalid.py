"""The error of a rulebook that cannot be used."""

from __future__ import annotations

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Finding


class RulebookInvalid(InkwellError):
    """A rulebook cannot be used; ``findings`` says everything that is wrong with it, in file order."""

    def __init__(self, findings: tuple[Finding, ...]) -> None:
        self.findings = findings
        super().__init__("\n".join(finding.text for finding in findings))
