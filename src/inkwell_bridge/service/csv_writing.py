"""CSV (RFC 4180) that no spreadsheet takes for more than text."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence

# A cell that begins so would be taken for a formula by a spreadsheet.
FORMULA = ("=", "+", "-", "@", "\t", "\r")
# What XML cannot hold, and no table should; tabs and line breaks stand in names now and then.
CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f]")


def written(heading: Sequence[str], rows: Iterable[Iterable[str]]) -> Iterator[str]:
    """A table as CSV, many rows at a time."""
    buffer = io.StringIO()
    # Each cell in quotes: where a spreadsheet ends one at a semicolon or a tab, what follows would stand in a cell of
    # its own, and could be a formula.
    writer = csv.writer(buffer, quoting=csv.QUOTE_ALL)
    writer.writerow(heading)
    for row in rows:
        writer.writerow([_harmless(cell) for cell in row])
        if buffer.tell() > 65_536:
            yield buffer.getvalue()
            buffer.seek(0)
            buffer.truncate()
    yield buffer.getvalue()


def _harmless(cell: str) -> str:
    text = CONTROL.sub("\ufffd", cell)
    return f"'{text}" if text.startswith(FORMULA) else text
