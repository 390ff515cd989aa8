"""What people read keeps to the words of docs/words.md."""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PRODUCT = ROOT / "src" / "inkwell_bridge"


def banned() -> list[str]:
    """The first column of the table of what is said otherwise."""
    table = (ROOT / "docs" / "words.md").read_text("utf-8").partition("## Instead of")[2]
    rows = [line.strip("| \n").split(" | ") for line in table.splitlines() if line.startswith("|")]
    return [row[0] for row in rows[2:]]


@cache
def texts_of(file: Path) -> tuple[str, ...]:
    """What a file can show to a person: the texts of a program, docstrings of commands among them; or all of a page."""
    if file.suffix != ".py":
        # A comment of the console is for its makers.
        return (re.sub(r"/\*.*?\*/|//[^\n]*", "", file.read_text("utf-8"), flags=re.S),)
    nodes = ast.walk(ast.parse(file.read_text("utf-8")))
    return tuple(node.value for node in nodes if isinstance(node, ast.Constant) and isinstance(node.value, str))


@cache
def readable() -> list[Path]:
    """Every file that people read from."""
    programs = [*PRODUCT.rglob("cli/*.py"), *(PRODUCT / "core").rglob("*.py"), *(PRODUCT / "service").rglob("*.py")]
    pages = [*(ROOT / "console" / "src").rglob("*.tsx"), ROOT / "README.md"]
    pages += [page for part in ("guide", "reference", "operate") for page in (ROOT / "docs" / part).glob("*.md")]
    return [file for file in (*programs, *pages) if "migrations" not in file.parts]


@pytest.mark.parametrize("phrase", banned())
def test_nothing_a_person_reads_says(phrase: str) -> None:
    """Each of the phrases that have a plainer one."""
    pattern = re.compile(rf"\b{re.escape(phrase)}\b", re.IGNORECASE)
    found = [
        f"{file.relative_to(ROOT)}: {text[max(match.start() - 40, 0) : match.end() + 40]!r}"
        for file in readable()
        for text in texts_of(file)
        if (match := pattern.search(text))
    ]
    assert not found, "\n".join(found)


def test_the_list_is_read() -> None:
    """A table that moved would ban nothing."""
    assert "last heard" in banned()
    assert len(readable()) > 100
