"""Links as a table, CSV (RFC 4180) or XLSX: written out row by row, read back with every bad row named."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, BinaryIO

from django.db.models import QuerySet
from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.utils.exceptions import InvalidFileException

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.models import Link
from inkwell_bridge.service.refusal import Refusal

LARGEST_BYTES = 10_000_000
LARGEST_UNPACKED_BYTES = 200_000_000
MOST_ROWS = 200_000
LONGEST_CELL = 500
CHUNK = 1000
NONE = "none"
# A cell that begins so would be taken for a formula by a spreadsheet.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
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


def rows(between: Between) -> Iterator[tuple[str, ...]]:
    """Every row of the table: all that the sales side has, with what it is linked to; open ones lead to nothing."""
    last = 0
    while batch := list(between.sold().filter(pk__gt=last).order_by("pk")[:CHUNK]):
        last = batch[-1].pk
        links = _by_key(between.links().filter(key__in=[entry.source_id for entry in batch]))
        names = dict(
            between.kept()
            .filter(source_id__in={link.target_id for found in links.values() for link in found})
            .values_list("source_id", "name")
        )
        for entry in batch:
            for link in links.get(entry.source_id, [None]):
                yield (entry.source_id, entry.code, entry.name, *_linked(link, names))


def _by_key(links: QuerySet[Link]) -> dict[str, list[Link | None]]:
    found: dict[str, list[Link | None]] = {}
    for link in links.order_by("pk"):
        found.setdefault(link.key, []).append(link)
    return found


def _linked(link: Link | None, names: dict[str, str]) -> tuple[str, ...]:
    if link is None:
        return ("", "", "", "", "", "")
    if not link.target_id:
        return ("", NONE, "", "", "", link.rule)
    share = "" if link.share is None else f"{link.share.normalize():f}"
    name = names.get(link.target_id, "")
    return (link.target_id, link.target_code, name, f"{link.quantity.normalize():f}", share, link.rule)


def as_csv(between: Between) -> Iterator[str]:
    """The table as CSV, a row at a time."""
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    for row in (columns(between.kind), *()):
        writer.writerow(row)
    for row in rows(between):
        writer.writerow([_harmless(cell) for cell in row])
        if buffer.tell() > 65_536:
            yield buffer.getvalue()
            buffer.seek(0)
            buffer.truncate()
    yield buffer.getvalue()


def _harmless(cell: str) -> str:
    return f"'{cell}" if cell.startswith(_FORMULA) else cell


def as_xlsx(between: Between, file: BinaryIO) -> None:
    """The table as a workbook of one sheet, written a row at a time; every cell is text."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet(between.kind.value)
    sheet.append(list(columns(between.kind)))
    for row in rows(between):
        sheet.append([_text(sheet, cell) for cell in row])
    book.save(file)


def _text(sheet: Any, value: str) -> Any:
    cell = WriteOnlyCell(sheet, value=value)
    cell.data_type = "s"
    return cell


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
    for number, cells in enumerate(found, start=2):
        if number > MOST_ROWS + 1:
            raise UnreadableTable(f"The file has more than {MOST_ROWS:,} rows; send it in parts.")
        texts = [_read_cell(cell) for cell in cells]
        if any(texts):
            yield Row(number=number, cells=dict(zip(names, texts, strict=False)))


def _read_cell(cell: Any) -> str:
    if cell is None:
        return ""
    text = f"{int(cell)}" if isinstance(cell, float) and cell.is_integer() else str(cell)
    text = text.strip()[:LONGEST_CELL]
    # What we wrote so that no spreadsheet takes it for a formula.
    return text[1:] if text.startswith("'") and text[1:].startswith(_FORMULA) else text


def _csv(file: BinaryIO) -> Iterator[Iterable[Any]]:
    try:
        text = file.read().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnreadableTable("The file is no text in UTF-8.") from error
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)
    try:
        yield from csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    except csv.Error as error:
        raise UnreadableTable(f"The file is no CSV: {error}.") from error


def _xlsx(file: BinaryIO) -> Iterator[Iterable[Any]]:
    try:
        with zipfile.ZipFile(file) as packed:
            if sum(part.file_size for part in packed.infolist()) > LARGEST_UNPACKED_BYTES:
                raise UnreadableTable("The workbook unpacks to more than is read.")
        file.seek(0)
        book = load_workbook(file, read_only=True, data_only=True, keep_links=False)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()
        yield from sheet.iter_rows(values_only=True)
    except (zipfile.BadZipFile, InvalidFileException, KeyError, IndexError, ValueError, OSError) as error:
        raise UnreadableTable("The file is no workbook that can be read.") from error
