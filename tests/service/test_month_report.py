"""The report of a month: the same figures in every form, in each language, and the same bytes each time."""

from __future__ import annotations

import json
import re
import subprocess
from collections.abc import Callable
from decimal import Decimal
from io import BytesIO
from pathlib import Path
from typing import Any

import jsonschema
import openpyxl
import pytest

from inkwell_bridge.client import MonthCalls
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.proof import Reason
from inkwell_bridge.launch import places
from inkwell_bridge.service.closing.writing.words import CAUSES, REASONS, TEXTS, Words
from tests.carriage.test_changed_orders import OCTOBER
from tests.support.world import World

COMPANY, MONTH = "marrowby-uk", "2026-10"
# Formulas of the October: fewer, and a table has lost them.
LEAST_FORMULAS = 50


@pytest.fixture
def month(october: World) -> MonthCalls:
    """October as it stands, with what is held in it."""
    return october.calls.month(COMPANY, MONTH)


@pytest.fixture
def pages(month: MonthCalls, tmp_path: Path) -> Callable[[str], str]:
    """The text of the PDF's pages in a language."""

    def read(language: str) -> str:
        file = tmp_path / f"{language}.pdf"
        file.write_bytes(month.report("pdf", language))
        return subprocess.run(["pdftotext", "-layout", file, "-"], check=True, capture_output=True, text=True).stdout

    return read


def test_the_json_is_as_its_schema_says_and_as_the_sheet_is(month: MonthCalls, october: World) -> None:
    """Row by row, both sides and every part."""
    said = json.loads(month.report("json"))
    schema = json.loads((places.root() / "docs/formats/month-report-1.schema.json").read_text("utf-8"))
    jsonschema.Draft202012Validator(schema).validate(said)
    assert said["seal"] is None
    sheet = october.calls.sheet(**OCTOBER, company=COMPANY).read()
    for name in ("headline", "tax_codes", "accounts", "tenders"):
        rows = sheet.rows if name == "headline" else getattr(sheet, name)
        told = [(row["section"], row["currency"], row["tax_code"], row["tender"], row["source"]["gross"],
                 row["books"]["gross"], [(part["reason"], part["totals"]["gross"]) for part in row["parts"]])
                for row in said["report"][name]]  # fmt: skip
        assert told == [(row.section, row.currency, row.tax_code, row.tender, str(row.source.gross),
                         str(row.books.gross), [(part.reason, str(part.gross)) for part in row.parts])
                        for row in rows]  # fmt: skip
    listed: dict[tuple[str, str], Decimal] = {}
    for one in said["report"]["documents"]:
        if one["table"] == "totals":
            key = one["reason"], one["detail"]
            listed[key] = listed.get(key, Decimal(0)) + Decimal(one["totals"]["gross"])
    # The documents that are named come to what the reason does, in all currencies together.
    parts: dict[tuple[str, str], Decimal] = {}
    for row in sheet.rows:
        for part in row.parts:
            if row.section != "both" and part.documents is not None:
                key = part.reason, part.detail
                parts[key] = parts.get(key, Decimal(0)) + part.gross
    assert listed == parts
    assert "held" in {reason for reason, _ in listed}


def recomputed(content: bytes, folder: Path) -> Any:
    """The workbook as a spreadsheet works it out anew, from nothing but its formulas."""
    file = folder / "report.xlsx"
    # What was written beside the formulas goes, so that nothing but the spreadsheet's own can be read.
    book = openpyxl.load_workbook(BytesIO(content))
    book.save(file)
    to = folder / "again"
    profile = f"-env:UserInstallation=file://{folder}/profile"
    command = ["soffice", profile, "--headless", "--convert-to", "xlsx:Calc MS Excel 2007 XML", "--outdir", to, file]
    subprocess.run(command, check=True, capture_output=True, timeout=120)
    return openpyxl.load_workbook(to / "report.xlsx", data_only=True)


def test_a_spreadsheet_works_out_the_same(month: MonthCalls, october: World, tmp_path: Path) -> None:
    """Every formula gives what the report says, and the headline is what the sheet says."""
    content = month.report("xlsx")
    written = openpyxl.load_workbook(BytesIO(content), data_only=True)
    formulas = openpyxl.load_workbook(BytesIO(content))
    again = recomputed(content, tmp_path)
    places_of = [(sheet.title, cell.coordinate) for sheet in formulas for row in sheet.iter_rows() for cell in row
                 if isinstance(cell.value, str) and cell.value.startswith("=")]  # fmt: skip
    assert len(places_of) > LEAST_FORMULAS
    for sheet, cell in places_of:
        said, found = written[sheet][cell].value, again[sheet][cell].value
        assert abs(Decimal(str(said)) - Decimal(str(found))) < Decimal("0.0005"), (sheet, cell)
    rows = list(again["1 Both sides"].iter_rows(min_row=4, values_only=True))
    gross = {(row[1], at // 4): row[3:8] for at, row in enumerate(rows) if row[2] == "Gross"}
    for at, row in enumerate(october.calls.sheet(**OCTOBER, company=COMPANY).read().rows):
        source, books, difference, reasons, left = gross[row.currency, at]
        told = tuple(float(one.gross) for one in (row.source, row.books, row.difference))
        assert (source, books, difference) == pytest.approx(told, abs=0.0005)
        assert (reasons, left) == pytest.approx((told[2], 0), abs=0.0005)


@pytest.mark.parametrize("form", ["pdf", "xlsx", "json"])
def test_made_twice_it_is_the_same_byte_for_byte(month: MonthCalls, form: str) -> None:
    """Whoever asks, and whenever."""
    assert month.report(form) == month.report(form)


@pytest.mark.parametrize(
    ("language", "title", "said", "amount"),
    [
        ("en", "Month-end report", "held: a tax class has no tax code", r"\d,\d{3}\.\d\d"),
        ("de", "Monatsabschlussbericht", "eine Steuerklasse hat keinen", r"\d\.\d{3},\d\d"),
        ("fr", "Rapport de clôture mensuelle", "une classe de taxe", r"\d\s\d{3},\d\d"),
    ],
)
def test_it_speaks_the_clients_language(
    pages: Callable[[str], str], language: str, title: str, said: str, amount: str
) -> None:
    """Words, amounts and days; every page has its number, and none has a gap for a letter."""
    text = pages(language)
    assert title in text
    assert re.search(said.replace(" ", r"\s+"), text)
    assert re.search(amount, text)
    assert "\ufffd" not in text
    assert "■" not in text


def test_the_pages_are_a4(month: MonthCalls, tmp_path: Path) -> None:
    """And there are several."""
    file = tmp_path / "report.pdf"
    file.write_bytes(month.report())
    told = subprocess.run(["pdfinfo", file], check=True, capture_output=True, text=True).stdout
    assert re.search(r"Page size:\s+595.\d+ x 841.\d+ pts \(A4\)", told)
    assert int(re.search(r"Pages:\s+(\d+)", told)[1]) >= 3  # type: ignore[index]


def test_names_of_others_are_words_and_never_formulas_or_markup(october: World) -> None:
    """A company may be called whatever it likes."""
    name = '=HYPERLINK("http://x.example","<b>Marrowby & Söhne</b>")'
    before = next(one.name for one in october.calls.companies() if one.slug == COMPANY)
    october.calls.change_company(COMPANY, name=name)
    try:
        month = october.calls.month(COMPANY, MONTH)
        book = openpyxl.load_workbook(BytesIO(month.report("xlsx")))
        assert (book["0 Summary"]["B4"].value, book["0 Summary"]["B4"].data_type) == (name, "s")
        assert month.report("pdf")[:5] == b"%PDF-"
    finally:
        october.calls.change_company(COMPANY, name=before)


def test_every_word_is_in_every_language() -> None:
    """With the same places to fill, and none left in English by mistake."""
    for name, texts in TEXTS.items():
        places_of = [sorted(re.findall(r"{(\w+)}", text)) for text in texts]
        assert places_of[0] == places_of[1] == places_of[2], name
        assert all(texts), name
    assert set(REASONS) == set(Reason)
    assert set(CAUSES) == set(Cause)
    assert Words("de").reason("held", "customer-unclear") == "angehalten: der Kunde ist unklar"
    assert Words("en").reason("left out", "/orders/statuses") == "left out: the rulebook’s orders › statuses"
