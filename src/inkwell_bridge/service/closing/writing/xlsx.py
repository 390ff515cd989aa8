"""The report as a workbook (ISO/IEC 29500) whose differences and sums are formulas, so that it works them out anew."""

from __future__ import annotations

import datetime
from io import BytesIO
from typing import Any

from xlsxwriter import Workbook
from xlsxwriter.utility import xl_rowcol_to_cell

from inkwell_bridge.core.closing import ClosedReport
from inkwell_bridge.service.closing.writing.tables import (
    Amount,
    At,
    Cell,
    Kind,
    SheetTable,
    Worked,
    facts_of,
    seal_of,
    tables_of,
)
from inkwell_bridge.service.closing.writing.words import Words, digits_of

# A worksheet's name is no longer than this, and has none of these characters in it.
_LONGEST_NAME, _NOT_IN_NAMES = 31, str.maketrans("", "", "[]:*?/\\'")
# The title, an empty row, and the headings stand above the first row of a table.
_ABOVE = 3
_WIDEST = 60


def as_xlsx(closed: ClosedReport, words: Words) -> bytes:
    """The workbook: a sheet of facts, and one for each table."""
    out = BytesIO()
    # Texts are texts, whatever they begin with: a name such as =1+1 is no formula.
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    book = Workbook(out, options)
    report = closed.report
    at = closed.seal.closed_at if closed.seal else datetime.datetime.combine(report.last, datetime.time())
    book.set_properties({"title": f"{words.text('title')}: {report.company.name}, {report.month}",
                         "author": report.company.client, "created": at.replace(tzinfo=None)})  # fmt: skip
    tables = list(tables_of(closed, words))
    names = {table.name: _name(table.title, number) for number, table in enumerate(tables, start=1)}
    formats = _Formats(book)
    _facts(book.add_worksheet(_name(words.text("summary"), 0)), closed, words, formats)
    for table in tables:
        _sheet(book.add_worksheet(names[table.name]), table, names, words, formats)
    book.close()
    return out.getvalue()


def _name(title: str, number: int) -> str:
    name = f"{number} {title.split(',', maxsplit=1)[0].translate(_NOT_IN_NAMES)}"
    return name if len(name) <= _LONGEST_NAME else name[:_LONGEST_NAME].rsplit(" ", 1)[0]


class _Formats:
    """The formats of cells, each made once."""

    def __init__(self, book: Workbook) -> None:
        self._book, self._made = book, {}  # type: ignore[var-annotated]

    def of(self, **said: Any) -> Any:
        key = tuple(sorted(said.items()))
        if key not in self._made:
            self._made[key] = self._book.add_format(
                {"font_name": "DejaVu Sans", "font_size": 9, "valign": "top", **said}
            )
        return self._made[key]


def _facts(sheet: Any, closed: ClosedReport, words: Words, formats: _Formats) -> None:
    sheet.write_string(0, 0, words.text("title"), formats.of(bold=True, font_size=14))
    facts = facts_of(closed.report, words)
    facts += seal_of(closed.seal, closed.report, words) if closed.seal else [("", words.text("draft"))]
    for row, (name, said) in enumerate(facts, start=2):
        sheet.write_string(row, 0, name, formats.of(font_color="#5c6470"))
        sheet.write_string(row, 1, said, formats.of())
    sheet.set_column(0, 0, 34)
    sheet.set_column(1, 1, 80)
    _printed(sheet)


def _sheet(sheet: Any, table: SheetTable, names: dict[str, str], words: Words, formats: _Formats) -> None:
    sheet.write_string(0, 0, table.title, formats.of(bold=True, font_size=12))
    for column, (head, kind) in enumerate(zip(table.heads, table.kinds, strict=True)):
        align = "right" if kind is Kind.FIGURE else "left"
        sheet.write_string(_ABOVE - 1, column, head, formats.of(bold=True, bottom=1, align=align, text_wrap=True))
    for at, row in enumerate(table.rows):
        for column, cell in enumerate(row):
            said: dict[str, Any] = {}
            if at in table.strong:
                said["bold"] = True
            if at in table.open_rows:
                said["font_color"] = "#9b2c2c"
            _cell(sheet, _ABOVE + at, column, cell, names, formats, said)
    if not table.rows:
        sheet.write_string(_ABOVE, 0, table.empty, formats.of())
    if table.after:
        sheet.write_string(_ABOVE + len(table.rows) + 1, 0, table.after, formats.of())
    for column, head in enumerate(table.heads):
        longest = max([len(head) // 2, *(_length(row[column]) for row in table.rows)])
        sheet.set_column(column, column, min(_WIDEST, max(11, longest + 2)))
    # Headings of two lines have room for both.
    sheet.set_row(_ABOVE - 1, 28)
    sheet.freeze_panes(_ABOVE, 0)
    _printed(sheet)


def _printed(sheet: Any) -> None:
    """On A4 (paper 9), as wide as the sheet is."""
    sheet.set_landscape()
    sheet.set_paper(9)
    sheet.fit_to_pages(1, 0)


def _cell(
    sheet: Any, row: int, column: int, cell: Cell, names: dict[str, str], formats: _Formats, said: dict[str, Any]
) -> None:  # fmt: skip
    if isinstance(cell, Worked):
        formula = cell.formula.format(*(_address(at, names) for at in cell.of))
        value = cell.value
        shown = value.value if isinstance(value, Amount) else value
        # Sums of what stands there as binary fractions: rounded to the digits that the currency has.
        places = digits_of(value.currency) if isinstance(value, Amount) else 0
        form = formats.of(num_format=_pattern(value), **said)
        sheet.write_formula(row, column, f"=ROUND({formula},{places})", form, float(shown))
    elif isinstance(cell, Amount):
        sheet.write_number(row, column, float(cell.value), formats.of(num_format=_pattern(cell), **said))
    elif isinstance(cell, datetime.date):
        sheet.write_datetime(row, column, datetime.datetime.combine(cell, datetime.time()),
                             formats.of(num_format="yyyy-mm-dd", align="left", **said))  # fmt: skip
    elif isinstance(cell, int):
        sheet.write_number(row, column, cell, formats.of(num_format="#,##0", **said))
    elif cell:
        sheet.write_string(row, column, cell, formats.of(**said))


def _address(at: At, names: dict[str, str]) -> str:
    cell = xl_rowcol_to_cell(at.row + _ABOVE, at.column)
    return f"'{names[at.table]}'!{cell}" if at.table else cell


def _pattern(value: Amount | int) -> str:
    if not isinstance(value, Amount):
        return "#,##0"
    places = digits_of(value.currency)
    return "#,##0" + (f".{'0' * places}" if places else "")


def _length(cell: Cell) -> int:
    if isinstance(cell, Worked):
        cell = cell.value
    return len(f"{cell.value:,}") if isinstance(cell, Amount) else len(str(cell or ""))
