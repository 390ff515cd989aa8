"""A table of daily rates as a file: comma-separated, a row a day and currency."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from datetime import date
from decimal import InvalidOperation

from inkwell_bridge.core.errors import DocumentInvalid, InkwellError, NotExact
from inkwell_bridge.core.exchange_rates.rate import ExchangeRate

COLUMNS = ("day", "currency", "rate")
MOST_RATES = 20_000
_LONGEST_CELL = 40
_MOST_TOLD = 20


class RateFileInvalid(InkwellError):
    """A file of rates that cannot be read; ``problems`` name the lines."""

    def __init__(self, problems: list[str]) -> None:
        super().__init__("; ".join(problems))
        self.problems = problems


def read_rates(text: str, *, own: str, source: str) -> list[ExchangeRate]:
    """The rates of a file (RFC 4180) whose first line names its columns ``day``, ``currency`` and ``rate``.

    Units: a rate is what one unit of the currency is worth in ``own``. A day and currency that stand there twice must
    say the same.

    Raises:
        RateFileInvalid: naming every line that is wrong, up to twenty; nothing of such a file is to be kept.
    """
    rows = csv.reader(io.StringIO(text.removeprefix("\ufeff")))
    problems: list[str] = []
    found: dict[tuple[date, str], ExchangeRate] = {}
    try:
        head = [name.strip().casefold() for name in next(rows, [])]
        missing = [name for name in COLUMNS if name not in head]
        if missing:
            raise RateFileInvalid([f"line 1: expected the columns {', '.join(COLUMNS)}; {missing[0]} is missing"])
        for rate in _rates(rows, {name: head.index(name) for name in COLUMNS}, own, source, problems):
            kept = found.setdefault((rate.day, rate.currency), rate)  # type: ignore[arg-type]
            if kept.rate != rate.rate:
                problems.append(f"line {rows.line_num}: {rate.currency} on {rate.day} is {kept.rate} further up")
            if len(found) > MOST_RATES:
                problems.append(f"more than {MOST_RATES} rates in one file: load it in parts")
            if len(problems) >= _MOST_TOLD or len(found) > MOST_RATES:
                break
    except csv.Error as error:
        problems.append(f"line {rows.line_num}: {error}")
    if not found and not problems:
        problems.append("line 2: expected a rate, and the file ends there")
    if problems:
        raise RateFileInvalid(problems)
    return list(found.values())


def _rates(
    rows: Iterator[list[str]], places: dict[str, int], own: str, source: str, problems: list[str]
) -> Iterator[ExchangeRate]:
    for row in rows:
        if not any(cell.strip() for cell in row):
            continue
        line = f"line {rows.line_num}"  # type: ignore[attr-defined]
        if len(row) <= max(places.values()):
            problems.append(f"{line}: expected {len(places)} cells, got {len(row)}")
            continue
        day, currency, rate = (row[places[name]].strip()[:_LONGEST_CELL] for name in COLUMNS)
        try:
            yield ExchangeRate.read({"currency": currency.upper(), "own": own, "rate": rate, "source": source,
                                     "day": date.fromisoformat(day)})  # fmt: skip
        except ValueError:
            problems.append(f"{line}: expected a day such as 2026-10-05, got {day!r}")
        except (DocumentInvalid, NotExact, InvalidOperation) as error:
            expected = error.expected if isinstance(error, DocumentInvalid) else str(error)
            problems.append(f"{line}: {expected}")
