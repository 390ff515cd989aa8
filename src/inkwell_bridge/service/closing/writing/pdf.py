"""The report as PDF (ISO 32000), A4, to be handed over and printed."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import date
from functools import cache
from io import BytesIO
from itertools import pairwise
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from django.conf import settings
from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import CondPageBreak, Flowable, LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

from inkwell_bridge.core.closing import ClosedReport
from inkwell_bridge.service.closing.writing.tables import (
    Amount,
    Cell,
    Kind,
    SheetTable,
    Worked,
    closed_in_words,
    facts_of,
    seal_of,
    tables_of,
)
from inkwell_bridge.service.closing.writing.words import Words

INK, FADED, LINE, MADDER = HexColor("#1d2433"), HexColor("#5c6470"), HexColor("#c9c4b8"), HexColor("#9b2c2c")
MARGIN = 18 * mm
# The frame that ReportLab sets a page in has so much room within itself on each side.
_WIDTH = A4[0] - 2 * MARGIN - 12
# A heading goes to the next page where no more than this would stand below it.
_LEAST = 34 * mm
# Of one table at most so many rows are set at once: setting is slower than the number of rows.
_ROWS_AT_ONCE = 400


def as_pdf(closed: ClosedReport, words: Words) -> bytes:
    """The report's pages."""
    regular, bold = _fonts()
    style = _Styles(regular, bold)
    out = BytesIO()
    report = closed.report
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN, bottomMargin=MARGIN + 6 * mm,
        title=f"{words.text('title')}: {report.company.name}, {report.month}", author=report.company.client,
        # Without the moment of making, the same report gives the same bytes.
        invariant=True,
    )  # fmt: skip
    story: list[Flowable] = [*_head(closed, words, style)]
    for table in tables_of(closed, words):
        story += _table(table, words, style)
    story += _seal(closed, words, style)
    document.build(story, canvasmaker=_numbered(f"{report.company.name}, {report.month}", words, regular))
    return out.getvalue()


@cache
def _fonts() -> tuple[str, str]:
    """A font with the letters of most of Europe; where there is none, the one that comes with ReportLab, which has
    those of the west of it."""
    folder: Path = settings.REPORT_FONTS
    own = (folder / "DejaVuSans.ttf", folder / "DejaVuSans-Bold.ttf")
    files = own if all(file.exists() for file in own) else (_bundled("Vera.ttf"), _bundled("VeraBd.ttf"))
    for name, file in zip(("report", "report-bold"), files, strict=True):
        pdfmetrics.registerFont(TTFont(name, str(file)))
    return "report", "report-bold"


def _bundled(file: str) -> Path:
    return next(Path(str(one)) / file for one in rl_config.TTFSearchPath if (Path(str(one)) / file).exists())


class _Styles:
    def __init__(self, regular: str, bold: str) -> None:
        self.regular, self.bold = regular, bold
        base = ParagraphStyle("base", fontName=regular, fontSize=8.5, leading=11.5, textColor=INK)
        self.text = base
        self.faded = ParagraphStyle("faded", base, textColor=FADED)
        self.title = ParagraphStyle("title", base, fontName=bold, fontSize=17, leading=22)
        self.of = ParagraphStyle("of", base, fontSize=12, leading=16, textColor=FADED, spaceAfter=4 * mm)
        self.verdict = ParagraphStyle("verdict", base, fontName=bold, fontSize=9.5, leading=13, spaceBefore=3 * mm)
        self.open = ParagraphStyle("open", self.verdict, textColor=MADDER)
        self.head = ParagraphStyle("head", base, fontName=bold, fontSize=11, leading=14, spaceBefore=6 * mm,
                                   spaceAfter=1.5 * mm)  # fmt: skip
        self.cell = ParagraphStyle("cell", base, fontSize=7, leading=8.6)
        self.columns = ParagraphStyle("columns", self.cell, textColor=FADED)
        self.columns_right = ParagraphStyle("columns-right", self.columns, alignment=TA_RIGHT)


def _paragraph(text: str, style: ParagraphStyle) -> Paragraph:
    # Names and notes are other people's: nothing in them is markup.
    return Paragraph(escape(text).replace("\n", "<br/>"), style)


def _head(closed: ClosedReport, words: Words, style: _Styles) -> Iterator[Flowable]:
    report = closed.report
    yield _paragraph(words.text("title"), style.title)
    yield _paragraph(f"{report.company.name}, {words.month(report.first)}", style.of)
    yield _facts(facts_of(report, words), style)
    # Each item is accepted once, so that fewer acceptances leave something open.
    accepted = len(report.accepted) == len(report.open_items)
    said = "ties" if report.ties else "accepted_ties" if accepted else "does_not_tie"
    yield _paragraph(words.text(said), style.verdict if report.ties or accepted else style.open)
    if closed.seal is None:
        yield _paragraph(words.text("draft"), style.open)
    else:
        yield _paragraph(closed_in_words(closed.seal, report, words), style.text)


_FACTS = TableStyle([("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 1),
                     ("BOTTOMPADDING", (0, 0), (-1, -1), 1), ("VALIGN", (0, 0), (-1, -1), "TOP")])  # fmt: skip


def _seal(closed: ClosedReport, words: Words, style: _Styles) -> Iterator[Flowable]:
    if closed.seal is not None:
        yield CondPageBreak(2 * _LEAST)
        yield _paragraph(words.text("seal"), style.head)
        yield _facts(seal_of(closed.seal, closed.report, words), style)


def _facts(facts: Sequence[tuple[str, str]], style: _Styles) -> Flowable:
    """Names and what is said of each; a checksum stands in one line."""
    rows = [[_paragraph(name, style.faded), _paragraph(said, style.text)] for name, said in facts]
    return LongTable(rows, colWidths=[0.24 * _WIDTH, 0.76 * _WIDTH], style=_FACTS)


def _table(table: SheetTable, words: Words, style: _Styles) -> Iterator[Flowable]:
    yield CondPageBreak(_LEAST)
    yield _paragraph(table.title, style.head)
    if not table.rows:
        yield _paragraph(table.empty, style.text)
        return
    whole = sum(table.wide)
    widths = [_WIDTH * one / whole for one in table.wide]
    heads = [
        _paragraph(head, style.columns_right if kind is Kind.FIGURE else style.columns)
        for head, kind in zip(table.heads, table.kinds, strict=True)
    ]
    for first in range(0, len(table.rows), _ROWS_AT_ONCE):
        chunk = range(first, min(first + _ROWS_AT_ONCE, len(table.rows)))
        rows = [heads, *([_drawn(cell, words, style) for cell in table.rows[at]] for at in chunk)]
        drawn = LongTable(rows, colWidths=widths, repeatRows=1, style=_styled(table, chunk, style))
        yield drawn
    if table.after:
        yield Spacer(0, 1.5 * mm)
        yield _paragraph(table.after, style.faded)


def _drawn(cell: Cell, words: Words, style: _Styles) -> Any:
    if isinstance(cell, str):
        return _paragraph(cell, style.cell)
    return _written_out(cell, words)


def _written_out(cell: Cell, words: Words) -> str:
    """A cell as text."""
    if isinstance(cell, Worked):
        cell = cell.value
    if isinstance(cell, Amount):
        return words.amount(*cell)
    if isinstance(cell, date):
        return words.day(cell)
    return words.number(cell) if isinstance(cell, int) else cell or ""


def _styled(table: SheetTable, chunk: range, style: _Styles) -> TableStyle:
    commands: list[tuple[Any, ...]] = [
        ("FONT", (0, 0), (-1, -1), style.regular, 7),
        ("TEXTCOLOR", (0, 0), (-1, -1), INK),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
        ("TOPPADDING", (0, 0), (-1, -1), 1.6),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.6),
        ("LINEBELOW", (0, 0), (-1, 0), 0.7, INK),
        ("LINEBELOW", (0, 1), (-1, -1), 0.25, LINE),
    ]
    commands += [("ALIGN", (column, 0), (column, -1), "RIGHT") for column, kind in enumerate(table.kinds)
                 if kind is Kind.FIGURE]  # fmt: skip
    for column, (before, kind) in enumerate(pairwise(table.kinds), start=1):
        if before is Kind.FIGURE and kind is Kind.TEXT:
            commands.append(("LEFTPADDING", (column, 0), (column, -1), 9))
    for at in chunk:
        row = at - chunk.start + 1
        if at in table.strong:
            commands.append(("FONT", (0, row), (-1, row), style.bold, 7))
        if at in table.open_rows:
            commands.append(("TEXTCOLOR", (0, row), (-1, row), MADDER))
    return TableStyle(commands)


def _numbered(said: str, words: Words, font: str) -> Callable[..., Canvas]:
    """A canvas that writes the number of each page, and of how many, once all are set."""

    class Numbered(Canvas):
        def __init__(self, *args: Any, **options: Any) -> None:
            super().__init__(*args, **options)
            self._set: list[dict[str, Any]] = []

        def showPage(self) -> None:  # noqa: N802 ReportLab's name
            self._set.append(dict(self.__dict__))
            self._startPage()

        def save(self) -> None:
            for number, page in enumerate(self._set, start=1):
                self.__dict__.update(page)
                self.setFont(font, 7)
                self.setFillColor(FADED)
                self.drawString(MARGIN, MARGIN - 2 * mm, said)
                text = words.text("page", page=number, pages=len(self._set))
                self.drawRightString(A4[0] - MARGIN, MARGIN - 2 * mm, text)
                super().showPage()
            super().save()

    return Numbered
