"""Tables of links that mean harm: read within bounds, or refused with one clear word."""

from __future__ import annotations

import io
import random
import time
import tracemalloc
import zipfile
from collections.abc import Callable
from contextlib import suppress

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.links import table_reading
from inkwell_bridge.service.links.table_reading import UnreadableTable

HEADING = ["product_id", "product_code", "item_id", "item_code"]
SHEET = "xl/worksheets/sheet1.xml"


def workbook(rows: int = 3) -> dict[str, bytes]:
    """The parts of a good one."""
    book = Workbook()
    assert book.active is not None
    book.active.append(HEADING)
    for number in range(rows):
        book.active.append([f"p{number}", f"P-{number}", "", f"I-{number}"])
    file = io.BytesIO()
    book.save(file)
    with zipfile.ZipFile(file) as packed:
        return {name: packed.read(name) for name in packed.namelist()}


def packed(parts: dict[str, bytes]) -> io.BytesIO:
    """A file of these parts."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as book:
        for name, content in parts.items():
            book.writestr(name, content)
    file.seek(0)
    return file


def read(file: io.BytesIO, name: str = "links.xlsx") -> list[dict[str, str]]:
    """Its rows, or what is said of it; within a time and a size that any of these tests would break."""
    started = time.monotonic()
    tracemalloc.start()
    try:
        return [row.cells for row in table_reading.read(LinkKind.PRODUCTS, name, file)]
    finally:
        _, peak = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        assert peak < 150_000_000
        assert time.monotonic() - started < 40


def test_a_good_one_is_read() -> None:
    """So that what follows is refused for its own sake."""
    rows = read(packed(workbook()))
    assert [row["product_id"] for row in rows] == ["p0", "p1", "p2"]


def with_sheet(sheet: Callable[[bytes], bytes]) -> dict[str, bytes]:
    """A good workbook with another sheet."""
    good = workbook()
    return {**good, SHEET: sheet(good[SHEET])}


def within(content: bytes) -> dict[str, bytes]:
    """A good workbook with this at the beginning of its rows."""
    return with_sheet(lambda sheet: sheet.replace(b"<sheetData>", b"<sheetData>" + content))


ENTITIES = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "' + b"x" * 1000 + b'">]>'
PREFIXED = b'<x:row xmlns:x="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
MANY_TEXTS = "xl/sharedStrings.xml"
HARMFUL: dict[str, tuple[Callable[[], dict[str, bytes]], str]] = {
    "a row of millions": (lambda: within(b"<row>" + b"<c/>" * 3_000_000 + b"</row>"), "more than 100 cells"),
    "a row with a prefix": (lambda: within(PREFIXED + b"<x:c/>" * 500), "more than 100 cells"),
    "entities": (lambda: with_sheet(lambda sheet: ENTITIES + sheet.partition(b"?>")[2]), "a document type"),
    "shared texts": (lambda: workbook() | {MANY_TEXTS: b"<sst>" + b"<si/>" * 9_000_000}, "more than is read"),
    "styles": (lambda: workbook() | {"xl/styles.xml": b" " * 45_000_000}, "more than is read"),
    "many parts": (lambda: workbook() | {f"x{number}.xml": b"" for number in range(300)}, "more than is read"),
    "a sheet without end": (lambda: with_sheet(lambda sheet: sheet + b" " * 210_000_000), "more than is read"),
    "no sheet": (lambda: {name: part for name, part in workbook().items() if name != SHEET}, "no workbook"),
    "no workbook": (lambda: {"xl/workbook.xml": b"<workbook/>"}, "no workbook"),
    "a sheet that breaks off": (lambda: with_sheet(lambda sheet: sheet[: len(sheet) // 2]), "no workbook"),
}


@pytest.mark.parametrize("name", HARMFUL)
def test_a_workbook_that_means_harm(name: str) -> None:
    """Refused before it is unpacked, or before its reader has built it up in memory."""
    parts, said = HARMFUL[name]
    file = packed(parts())
    with pytest.raises(UnreadableTable, match=said):
        read(file)


def test_too_many_rows() -> None:
    """They are counted as they come."""
    row = b'<row><c t="inlineStr"><is><t>x</t></is></c></row>'
    good = workbook()
    sheet = good[SHEET].replace(b"</sheetData>", row * (table_reading.MOST_ROWS + 5) + b"</sheetData>")
    with pytest.raises(UnreadableTable, match="more than 200,000 rows"):
        for _ in table_reading.read(LinkKind.PRODUCTS, "links.xlsx", packed({**good, SHEET: sheet})):
            pass


@pytest.mark.parametrize(("content", "said"), [
    (",".join(HEADING) + "\n" + "," * 2_000_000, "more than 100 columns"),
    (",".join(HEADING) + "\n" + '"' + "x" * 5_000_000, "no CSV"),
    (",".join(HEADING) + "\n" + "x" * 500_000 + ",a,b,c", "no CSV"),
    ("\x00" * 100, "Row 1 must name"),
    ("", "Row 1 must name"),
])  # fmt: skip
def test_a_csv_that_means_harm(content: str, said: str) -> None:
    """Likewise."""
    with pytest.raises(UnreadableTable, match=said):
        read(io.BytesIO(content.encode()), "links.csv")


# Its reader warns of what it passes over.
@pytest.mark.filterwarnings("ignore::UserWarning")
@settings(max_examples=150)
@given(st.binary(max_size=400), st.integers(0, 2**32), st.sampled_from(["links.xlsx", "links.csv"]))
def test_whatever_is_sent_is_a_table_or_refused(noise: bytes, seed: int, name: str) -> None:
    """Noise alone, and noise in the parts of a good workbook."""
    chance = random.Random(seed)
    parts = workbook()
    part = chance.choice(sorted(parts))
    at = chance.randrange(len(parts[part]) + 1)
    parts[part] = parts[part][:at] + noise + parts[part][at + chance.randrange(20) :]
    for file in (io.BytesIO(noise), packed(parts)):
        with suppress(UnreadableTable):
            for row in table_reading.read(LinkKind.PRODUCTS, name, file):
                assert all(len(cell) <= table_reading.LONGEST_CELL for cell in row.cells.values())
