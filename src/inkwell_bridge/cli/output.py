"""Answers: tables for people, JSON for programs; text for people goes to standard error when it is no answer."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any

import click
from pydantic import BaseModel
from rich.cells import cell_len
from rich.console import Console
from rich.markup import escape
from rich.progress import Progress, ProgressColumn
from rich.table import Table
from rich.text import Text

Column = tuple[str, Callable[[Any], Any]]


def as_json(value: Any) -> None:
    """Write JSON to standard output."""
    click.echo(json.dumps(_plain(value), indent=2, ensure_ascii=False))


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, dict):
        return {name: _plain(item) for name, item in value.items()}
    return [_plain(item) for item in value] if isinstance(value, list) else value


# A text that has less room than this is torn into pieces nobody can read.
LEAST_ROOM, BETWEEN = 14, 2


def table(rows: Iterable[Any], columns: Sequence[Column], *, empty: str) -> None:
    """Write a table; columns whose heading ends in ``>`` stand to the right.

    Nothing is ever cut: texts fold, and where even that leaves no room each row is a list of its values.
    """
    told = [[shown(value(row)) for _, value in columns] for row in rows]
    if not told:
        click.echo(empty)
        return
    out = console()
    headings = [heading.rstrip(">") for heading, _ in columns]
    widths = [max(map(cell_len, (heading, *cells))) for heading, *cells in zip(headings, *told, strict=True)]
    numbers = [heading.endswith(">") for heading, _ in columns]
    least = [width if number else min(width, LEAST_ROOM) for width, number in zip(widths, numbers, strict=True)]
    if sum(least) + BETWEEN * (len(columns) - 1) > out.width:
        _as_lists(out, headings, told)
        return
    drawn = Table(box=None, pad_edge=False, header_style="bold", padding=(0, BETWEEN, 0, 0))
    for heading, number, width in zip(headings, numbers, least, strict=True):
        drawn.add_column(
            heading, justify="right" if number else "left", no_wrap=number, min_width=width, overflow="fold"
        )
    for cells in told:
        drawn.add_row(*map(escape, cells))
    with out.capture() as captured:
        out.print(drawn)
    # The padding behind the last column would wrap on a terminal one cell narrower, and be noise in a file.
    click.echo("\n".join(line.rstrip() for line in captured.get().splitlines()))


def _as_lists(out: Console, headings: Sequence[str], told: Sequence[Sequence[str]]) -> None:
    """Each row as its headings and values below each other, an empty line between rows."""
    wide = max(map(cell_len, headings))
    for number, cells in enumerate(told):
        if number:
            out.print()
        for heading, cell in zip(headings, cells, strict=True):
            out.print(Text(f"{heading:<{wide}}  {cell}"), overflow="fold", soft_wrap=False)


def console() -> Console:
    """Standard output; plain and wide where it is no terminal."""
    out = Console(highlight=False)
    # In a file or a pipe nobody counts columns, and a folded row could not be searched.
    return out if out.is_terminal else Console(highlight=False, width=200, no_color=True)


def rule(pointer: str) -> str:
    """What left a document out, as people name it: a rule by its place in the rulebook, anything else as it is."""
    if pointer == "/bridge/starts_on":
        return "the bridge's start date"
    return f"the rule {pointer.strip('/').replace('/', '.')}" if pointer.startswith("/") else pointer


def progress(*columns: ProgressColumn, quiet: bool) -> Progress:
    """Bars on standard error that go away when they are done; none where nobody looks."""
    hidden = quiet or not sys.stderr.isatty()
    return Progress(*columns, console=Console(stderr=True), disable=hidden, transient=True)


def quantity(said: Decimal | str) -> str:
    """A count without the noughts behind its point."""
    return f"{Decimal(said).normalize():f}"


def shown(value: Any) -> str:
    """A value as people read it."""
    if value is None or value == "":
        return "–"
    if isinstance(value, Decimal):
        return f"{value:,}"
    if isinstance(value, datetime):
        return value.strftime("%Y-%m-%d %H:%M")
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)


def say(text: str) -> None:
    """A remark, which is no part of the answer."""
    click.echo(text, err=True)
