"""The report of a month as a file: PDF and XLSX for people, JSON for programs.

The same report gives the same bytes, whoever asks for it and whenever: nothing in them is of the moment of making but
what the report says itself.
"""

from __future__ import annotations

import json

from inkwell_bridge.core.closing import ClosedReport
from inkwell_bridge.service.closing.writing.pdf import as_pdf
from inkwell_bridge.service.closing.writing.words import Words
from inkwell_bridge.service.closing.writing.xlsx import as_xlsx

_MEDIA_TYPES = {
    "pdf": "application/pdf",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}


def written(report: ClosedReport, form: str, language: str) -> tuple[bytes, str]:
    """The file's content, and its media type; of JSON the language says nothing, for it has none."""
    if form == "json":
        content = json.dumps(report.as_json(), indent=2, ensure_ascii=False).encode() + b"\n"
    else:
        content = (as_pdf if form == "pdf" else as_xlsx)(report, Words(language))
    return content, _MEDIA_TYPES[form]
