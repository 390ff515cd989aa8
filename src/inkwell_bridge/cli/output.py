"""Answers: tables for people, JSON for programs; text for people goes to standard error when it is no answer."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any

import click
from pydantic import BaseModel
from rich.console import Console
from rich.table import Table

Column = tuple[str, Callable[[Any], Any]]


def as_json(value: Any) -> None:
    """Write JSON to standard output."""
    click.echo(json.dumps(_plain(value), indent=2, ensure_ascii=False))


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    return [_plain(item) for item in value] if isinstance(value, list) else value


def table(rows: Iterable[Any], columns: Sequence[Column], *, empty: str) -> None:
    """Write a table; columns whose heading ends in ``>`` stand to the right."""
    drawn = Table(box=None, pad_edge=False, header_style="bold", padding=(0, 2, 0, 0))
    for heading, _ in columns:
        drawn.add_column(
            heading.rstrip(">"), justify="right" if heading.endswith(">") else "left", no_wrap=heading.endswith(">")
        )
    number = 0
    for row in rows:
        drawn.add_row(*(shown(value(row)) for _, value in columns))
        number += 1
    if number:
        console().print(drawn)
    else:
        click.echo(empty)


def console() -> Console:
    """Standard output; plain and wide where it is no terminal."""
    out = Console(highlight=False)
    return out if out.is_terminal else Console(highlight=False, width=200, no_color=True)


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
    return str(value).replace("[", r"\[")


def say(text: str) -> None:
    """A remark, which is no part of the answer."""
    click.echo(text, err=True)
