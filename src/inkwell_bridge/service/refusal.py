"""A refusal that carries its outward form: the status it answers with, its code, and what to do."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.errors import InkwellError


class Refusal(InkwellError):
    """Something that the service will not do as things stand; subclasses say which status, code and hint."""

    status = 409
    code = "conflict"
    hint = ""

    def members(self) -> dict[str, Any]:
        """Further members of the problem."""
        return {}
