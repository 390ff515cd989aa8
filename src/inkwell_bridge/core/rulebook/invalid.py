"""The error of a rulebook that cannot be used."""

from __future__ import annotations

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.source_map import SourceMap

MOST_FINDINGS = 200


class RulebookInvalid(InkwellError):
    """A rulebook cannot be used; ``findings`` says everything that is wrong with it, in file order.

    ``without_unknown`` is the rulebook that it would be without the keys that nobody knows, where nothing else is wrong
    with its shape: so that it can be held against both ends all the same.
    """

    def __init__(
        self, findings: tuple[Finding, ...], *, without_unknown: tuple[Rulebook, SourceMap] | None = None
    ) -> None:
        each = tuple(dict.fromkeys(findings))
        self.findings = each[:MOST_FINDINGS]
        self.without_unknown = without_unknown
        lines = [finding.text for finding in self.findings]
        if len(each) > MOST_FINDINGS:
            # Nobody reads ten thousand of them, and one mistake is often the cause of many.
            lines.append(f"{len(each) - MOST_FINDINGS} more are not named; correct these first.")
        super().__init__("\n".join(lines))
