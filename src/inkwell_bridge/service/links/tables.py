"""Links as a table, CSV (RFC 4180) or XLSX, written out row by row; it is read back by ``table_reading``."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, BinaryIO

from django.db.models import QuerySet
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell

from inkwell_bridge.service.csv_writing import CONTROL, written
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.models import Link
from inkwell_bridge.service.links.table_reading import columns

CHUNK = 1000
NONE = "none"


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
    """The table as CSV, many rows at a time."""
    return written(columns(between.kind), rows(between))


def as_xlsx(between: Between, file: BinaryIO) -> None:
    """The table as a workbook of one sheet, written a row at a time; every cell is text."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet(between.kind.value)
    sheet.append(list(columns(between.kind)))
    for row in rows(between):
        sheet.append([_text(sheet, cell) for cell in row])
    book.save(file)


def _text(sheet: Any, value: str) -> Any:
    cell = WriteOnlyCell(sheet, value=CONTROL.sub("\ufffd", value))
    cell.data_type = "s"
    return cell
