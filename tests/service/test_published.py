"""What is published is what the program does."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys

import pytest

from inkwell_bridge.core.rulebook import SCHEMA
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.world import HTTP

DOCS = places.root() / "docs"
SOURCE = places.root() / "src" / "inkwell_bridge"


def test_the_migrations_are_complete(stack: Stack) -> None:
    """No model has changed without one."""
    done = subprocess.run(
        [sys.executable, "-m", "inkwell_bridge.service", "makemigrations", "--check", "--dry-run"],
        env={**os.environ, **stack.environment}, text=True, capture_output=True, check=False,
    )  # fmt: skip
    assert (done.returncode, done.stdout) == (0, "No changes detected\n")


def test_the_apis_description_is_current(stack: Stack) -> None:
    """docs/reference/openapi.json is what is served; make it anew with setup/openapi.sh."""
    served = HTTP.get(f"{stack.address}/api/v1/openapi.json").json()
    assert served["openapi"] == "3.1.0"
    assert served == json.loads((DOCS / "reference" / "openapi.json").read_text("utf-8"))


def test_the_rulebooks_schema_is_current() -> None:
    """docs/formats holds what the reader uses, and the reference names every key of it."""
    assert json.loads((DOCS / "formats" / "rulebook-1.schema.json").read_text("utf-8")) == SCHEMA


def test_the_rulebooks_reference_shows_every_key() -> None:
    """Each with its meaning and an example, those of groups within groups too."""
    lines = (DOCS / "reference" / "rulebook.md").read_text("utf-8").splitlines()
    split = (re.split(r"(?<!\\)\|", line) for line in lines)
    rows = {cells[1].strip(" `"): cells for cells in split if len(cells) == 8 and "`" in cells[1]}
    for name, group in SCHEMA["properties"].items():
        for key in group.get("properties", {}):
            # What some sales have otherwise is told once for every setting.
            assert (key if key.startswith("by_") and key in rows else f"{name}.{key}") in rows, (name, key)
    without = [key for key, cells in rows.items() if not (cells[2].strip() and cells[5].strip())]
    assert (without, len(rows) > 100) == ([], True)
    # What a group cannot do without stands in the row of the key, with the group.
    needed = {key: cells[3].strip() for key, cells in rows.items() if cells[3].strip()}
    assert (needed["rulebook"], needed["tax_codes.outside"], needed["payments.accounts"]) == (
        "always", "in `tax_codes`", "in `payments`",
    )  # fmt: skip
    assert "Needed with `orders`." in "\n".join(lines)


def test_every_finding_is_in_the_reference() -> None:
    """An id that the program can say, and nobody can look up, helps nobody."""
    said = set()
    for path in (*SOURCE.glob("core/**/*.py"), *SOURCE.glob("service/**/*.py")):
        said |= set(re.findall(r'"([A-Z]{3,5}-[ENW]\d{3})"', path.read_text("utf-8")))
    reference = (DOCS / "reference" / "findings.md").read_text("utf-8")
    # "SRC-E001 … E005" and "CUST-E001 … E004" stand for all between.
    spread = re.sub(r"(\w+-E)(\d+) … E(\d+)", lambda found: " ".join(
        f"{found[1]}{number:03d}" for number in range(int(found[2]), int(found[3]) + 1)), reference)  # fmt: skip
    named = set(
        re.findall(r"[A-Z]{3,5}-[ENW]\d{3}", re.sub(r"(\b[A-Z]+-)([ENW]\d+), ([ENW]\d+)", r"\1\2, \1\3", spread))
    )
    assert said - named == set()
    assert len(said) > 25


def test_every_setting_is_told() -> None:
    """A variable that is read but not described is a secret."""
    text = (SOURCE / "service" / "environment.py").read_text("utf-8")
    read = set()
    for path in (SOURCE / "service").glob("*.py"):
        read |= set(re.findall(r'["\'](INKWELL_\w+)["\']', path.read_text("utf-8")))
    table = text.split('"""')[1]
    assert {name for name in read if name not in table} <= {"INKWELL_CLOCK_FILE"}


@pytest.mark.parametrize(
    "page", sorted(path.relative_to(DOCS.parent).as_posix() for path in DOCS.parent.glob("docs/**/*.md"))
)
def test_links_between_pages_lead_somewhere(page: str) -> None:
    """No page names one that is not there."""
    here = DOCS.parent / page
    for target in re.findall(r"\]\(([^)#]+)", here.read_text("utf-8")):
        assert (here.parent / target).exists(), target
