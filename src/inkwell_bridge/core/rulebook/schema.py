"""The published JSON Schema (2020-12) of a rulebook; it ships beside this module."""

from __future__ import annotations

import json
from importlib import resources
from typing import Any

SCHEMA: dict[str, Any] = json.loads(
    resources.files("inkwell_bridge.core.rulebook").joinpath("rulebook.schema.json").read_text("utf-8")
)
