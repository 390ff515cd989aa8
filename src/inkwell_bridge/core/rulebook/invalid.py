"""The error of a rulebook that cannot be used."""

from __future__ import annotations

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.source_map import SourceMap


class RulebookInvalid(InkwellError):
    """A rulebook cannot be used; ``findings`` says everything that is wrong with it, in file order.

    ``without_unknown`` is the rulebook that it would be without the keys that nobody knows, where nothing else is wrong
    with its shape: so that it can be held against both ends all the same.
    """

    def __init__(
        self, findings: tuple[Finding, ...], *, without_unknown: tuple[Rulebook, SourceMap] | None = None
    ) -> None:
        self.findings = tuple(dict.fromkeys(findings))
        self.without_unknown = without_unknown
        super().__init__("\n".join(finding.text for finding in findings))
