#!/usr/bin/env bash
# Writes the published schemas of docs/formats and the rulebook's reference page anew.
set -euo pipefail
cd "$(dirname "$0")/.."
.venv/bin/python - <<'PYTHON'
import json
from pathlib import Path

from inkwell_bridge.core.formats import VERSION, formats, schema_of
from inkwell_bridge.core.rulebook import SCHEMA
from inkwell_bridge.core.rulebook.page import page

folder = Path("docs/formats")
schemas = {f"{name}-{VERSION}": schema_of(name) for name in formats()} | {"rulebook-1": SCHEMA}
for name, schema in schemas.items():
    (folder / f"{name}.schema.json").write_text(json.dumps(schema, indent=2, ensure_ascii=False) + "\n", "utf-8")
Path("docs/reference/rulebook.md").write_text(page(), "utf-8")
PYTHON
