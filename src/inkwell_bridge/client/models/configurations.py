"""What a configuration comes to on a bridge."""

from __future__ import annotations

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.bridges import Finding


class Missing(Answer):
    """Something that a configuration names and that is not there."""

    of: str
    text: str


class Difference(Answer):
    """One thing that would change, or has changed."""

    of: str
    text: str
    at: str


class ConfigurationComparison(Answer):
    """What a configuration comes to on a bridge; ``missing`` names the first of what ``missing_count`` counts,
    ``rulebook`` is the version that was written, if one was."""

    missing: list[Missing]
    missing_count: int
    differences: list[Difference]
    findings: list[Finding]
    applied: bool
    rulebook: int | None
