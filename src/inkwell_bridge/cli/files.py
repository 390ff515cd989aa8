"""Files that people name: read as text, and named where they cannot be used."""

from __future__ import annotations

import json
from collections.abc import Iterator
from itertools import chain
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli.exits import NOT_RIGHT

LARGEST_FILE = 20_000_000


class NotRight(click.ClickException):
    """A file that cannot be used."""

    exit_code = NOT_RIGHT


def text_of(file: Path, *, encoding: str = "utf-8") -> str:
    """What a file says.

    Raises:
        NotRight: it is not there, too large, or no text in UTF-8.
    """
    if not file.is_file():
        raise NotRight(f"There is no file {file}.")
    if file.stat().st_size > LARGEST_FILE:
        raise NotRight(f"{file} has more than {LARGEST_FILE:,} bytes.")
    try:
        return file.read_text(encoding)
    except UnicodeDecodeError as error:
        raise NotRight(f"{file} is not a text file in UTF-8.") from error


def json_of(file: Path) -> Any:
    """What a file of JSON says.

    Raises:
        NotRight: it is not there, too large, or no JSON.
    """
    try:
        return json.loads(text_of(file))
    except ValueError as error:
        raise NotRight(f"{file} is not JSON: {error}") from error


def lines_of(file: Path) -> Iterator[tuple[str, str]]:
    """The lines of a file of JSON Lines that say anything, each with its place.

    Raises:
        NotRight: it is no text in UTF-8.
    """
    try:
        with file.open(encoding="utf-8") as lines:
            for number, line in enumerate(lines, start=1):
                if line.strip():
                    yield f"{file.name}, line {number}", line
    except UnicodeDecodeError as error:
        raise NotRight(f"{file} is not a text file in UTF-8.") from error


def json_line(line: str, place: str, *, made_by: str) -> Any:
    """A line as JSON; ``made_by`` is the command that writes such files.

    Raises:
        NotRight: it is none.
    """
    try:
        return json.loads(line)
    except (ValueError, RecursionError) as error:
        raise NotRight(f"{place} is no JSON: {error}. Make the file with: {made_by}") from error


def write_chunks(chunks: Iterator[bytes], file: Path) -> int:
    """Write what a call answers to a file; answers how many lines there are.

    Nothing is written before the first of it has come: a refused call leaves no empty file.
    """
    began, count = next(chunks, b""), 0
    with file.open("wb") as written:
        for chunk in chain((began,), chunks):
            count += chunk.count(b"\n")
            written.write(chunk)
    return count
