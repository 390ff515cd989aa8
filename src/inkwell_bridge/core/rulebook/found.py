"""What the checks of a rulebook say: a finding each, with the line of the file that it is about."""

from __future__ import annotations

from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.rulebook.source_map import SourceMap


def placed(finding: Finding, source_map: SourceMap | None) -> Finding:
    """The same, said of its file and line where these are known."""
    if source_map is None:
        return finding
    file, line = source_map.find(finding.at)
    return finding.model_copy(update={"line": line, "text": f"{file}, line {line}: {finding.text}"})


def wrong(code: str, at: str, text: str, hint: str) -> Finding:
    """The rule cannot be used: a hint says what would be right."""
    return Finding(id=code, level=Level.ERROR, text=text, hint=hint, at=at, cause=Cause.REFERENCE_MISSING)


def unknown_at_source(code: str, at: str, what: str, hint: str) -> Finding:
    """The sales side does not know of it."""
    return Finding(id=code, level=Level.WARNING, text=f"{what} is not known at the sales side", hint=hint, at=at)
