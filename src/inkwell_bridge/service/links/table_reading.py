"""Reading tables that people send, CSV (RFC 4180) or XLSX: row by row, and within bounds whatever they hold."""

from __future__ import annotations

import csv
import io
import re
import time
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, BinaryIO

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.csv_writing import FORMULA
from inkwell_bridge.service.refusal import Refusal

LARGEST_BYTES = 10_000_000
# A sheet is read a row at a time; the other parts of a workbook, its shared texts among them, are held whole.
LARGEST_SHEET_BYTES, LARGEST_PART_BYTES, MOST_PARTS = 200_000_000, 40_000_000, 200
MOST_ROWS, MOST_COLUMNS = 200_000, 100
MOST_SECONDS = 60.0
LONGEST_CELL = 500
_SHEET = re.compile(r"xl/worksheets/[^/]+\.xml$", re.I)
_ROW_OR_CELL = re.compile(rb"<(?:[A-Za-z_]{1,20}:)?(row|c)[\s/>]")
_DOCUMENT_TYPE = re.compile(rb"<!(?:DOCTYPE|ENTITY)|<\x00!\x00(?:D|E)", re.I)
LONGEST_MARK = 30
_SIDES = {LinkKind.PRODUCTS: ("product", "item"), LinkKind.CUSTOMERS: ("customer", "contact")}


class UnreadableTable(Refusal):
    """A file is no table of links."""

    status = 422
    code = "unreadable-table"
    hint = "Export the table first: an import has the same columns. Save it as CSV in UTF-8, or as XLSX."


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One row of a table; ``number`` counts as a spreadsheet does, the heading being row 1."""

    number: int
    cells: dict[str, str]


def columns(kind: LinkKind) -> tuple[str, ...]:
    """The headings."""
    sold, kept = _SIDES[kind]
    return (
        *(f"{sold}_{name}" for name in ("id", "code", "name")),
        *(f"{kept}_{name}" for name in ("id", "code", "name")),
        "quantity",
        "share",
        "linked_by",
    )


def sides(kind: LinkKind) -> tuple[str, str]:
    """What the two sides are called in the headings."""
    return _SIDES[kind]


def read(kind: LinkKind, name: str, file: BinaryIO) -> Iterator[Row]:
    """The rows of a file, whichever of the two forms it has.

    Raises:
        UnreadableTable: it is neither, lacks a column, or is too large.
    """
    found = _xlsx(file) if name.lower().endswith(".xlsx") else _csv(file)
    heading = next(found, None)
    wanted = columns(kind)
    names = [str(cell).strip().lower() for cell in heading or ()]
    needed = {wanted[0], wanted[1], wanted[3], wanted[4]}
    if len(needed & set(names)) < 2 or not {wanted[3], wanted[4]} & set(names):
        raise UnreadableTable(
            f"Row 1 must name the columns {', '.join(wanted)}; it names {', '.join(names)[:300] or 'nothing'}."
        )
    ends_at = time.monotonic() + MOST_SECONDS
    for number, cells in enumerate(found, start=2):
        if number > MOST_ROWS + 1:
            raise UnreadableTable(f"The file has more than {MOST_ROWS:,} rows; send it in parts.")
        if time.monotonic() > ends_at:
            raise UnreadableTable(f"Reading the file took more than {MOST_SECONDS:.0f} seconds; send it in parts.")
        texts = [_read_cell(cell) for cell in cells]
        if any(texts):
            yield Row(number=number, cells=dict(zip(names, texts, strict=False)))


def _read_cell(cell: Any) -> str:
    if cell is None:
        return ""
    text = f"{int(cell)}" if isinstance(cell, float) and cell.is_integer() else str(cell)
    text = text.strip()[:LONGEST_CELL]
    # What we wrote so that no spreadsheet takes it for a formula.
    return text[1:] if text.startswith("'") and text[1:].startswith(FORMULA) else text


def _csv(file: BinaryIO) -> Iterator[Iterable[Any]]:
    try:
        text = file.read().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnreadableTable("The file is no text in UTF-8.") from error
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True):
            if len(row) > MOST_COLUMNS:
                raise UnreadableTable(f"A row of the file has more than {MOST_COLUMNS} columns.")
            yield row
    except csv.Error as error:
        raise UnreadableTable(f"The file is no CSV: {error}.") from error


def _xlsx(file: BinaryIO) -> Iterator[Iterable[Any]]:
    try:
        with zipfile.ZipFile(file) as packed:
            _look_over(packed)
        file.seek(0)
        book = load_workbook(file, read_only=True, data_only=True, keep_links=False)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()
        yield from sheet.iter_rows(values_only=True)
    except (
        zipfile.BadZipFile,
        InvalidFileException,
        KeyError,
        IndexError,
        ValueError,
        OSError,
        TypeError,
        AttributeError,
        NotImplementedError,
        RuntimeError,
        SyntaxError,
        EOFError,
        zlib.error,
    ) as error:
        # All of these a made-up workbook draws out of its reader, and each means the same.
        raise UnreadableTable("The file is no workbook that can be read.") from error


def _look_over(packed: zipfile.ZipFile) -> None:
    """See to it that nothing in a workbook grows when it is read: before its reader, which builds each row and every
    shared text in memory, has seen any of it.

    Raises:
        UnreadableTable: it unpacks to more than is read, has a row of too many cells, or brings a document type.
    """
    parts = packed.infolist()
    sheets = [part for part in parts if _SHEET.match(part.filename)]
    others = [part for part in parts if part not in sheets]
    # What a part says of its size is all that is ever unpacked of it.
    if (
        len(parts) > MOST_PARTS
        or sum(part.file_size for part in sheets) > LARGEST_SHEET_BYTES
        or sum(part.file_size for part in others) > LARGEST_PART_BYTES
    ):
        raise UnreadableTable("The workbook unpacks to more than is read; send it in parts, or as CSV.")
    ends_at = time.monotonic() + MOST_SECONDS
    for part in parts:
        cells, before = 0, b""
        with packed.open(part) as content:
            while chunk := content.read(65_536):
                # A mark may lie across two chunks.
                seen = before + chunk
                if _DOCUMENT_TYPE.search(seen):
                    raise UnreadableTable("The workbook brings a document type, which is not read.")
                for mark in _ROW_OR_CELL.finditer(seen, max(len(before) - LONGEST_MARK, 0)) if part in sheets else ():
                    if mark.end() <= len(before):
                        continue
                    cells = 0 if mark[1] == b"row" else cells + 1
                    if cells > MOST_COLUMNS:
                        raise UnreadableTable(f"A row of the workbook has more than {MOST_COLUMNS} cells.")
                before = seen[-LONGEST_MARK:]
                if time.monotonic() > ends_at:
                    raise UnreadableTable(f"Reading the file took more than {MOST_SECONDS:.0f} seconds.")
