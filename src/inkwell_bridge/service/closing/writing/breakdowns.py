"""Both sides of a month part by part: by tax code, account, tender, bridge and day."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.closing import MonthReport, ReportRow
from inkwell_bridge.service.closing.writing.cells import Amount, At, Kind, SheetTable, Worked
from inkwell_bridge.service.closing.writing.words import Words

ZERO = Decimal(0)


def figure(row: ReportRow, side: str, measure: str) -> Amount | int:
    """What a side says of a row, or the difference."""
    value = getattr(getattr(row, side), measure)
    return value if measure == "count" else Amount(value, row.currency)


def tax_codes(report: MonthReport, words: Words) -> SheetTable:
    """Net and tax of each code, as the rules code the source's amounts and as the books hold them."""
    heads = [words.text("tax_code"), words.text("currency")]
    heads += [f"{words.text(side)}, {words.text(name)}" for side in ("sales_side", "books") for name in ("net", "tax")]
    table = SheetTable(
        "codes", words.text("tax_codes"), [*heads, words.text("difference")], [Kind.TEXT] * 2 + [Kind.FIGURE] * 5,
        [20, 10, 14, 14, 14, 14, 14],
    )  # fmt: skip
    for row in report.tax_codes:
        at = len(table.rows)
        sides = (Amount(getattr(getattr(row, side), name), row.currency)
                 for side in ("source", "books") for name in ("net", "tax"))  # fmt: skip
        table.add(
            row.tax_code, row.currency, *sides,
            Worked(Amount(row.difference.gross, row.currency), "{0}+{1}-{2}-{3}",
                   tuple(At(at, column) for column in (2, 3, 4, 5))),
            is_open=not row.ties,
        )  # fmt: skip
    return table


def accounts(report: MonthReport, words: Words) -> SheetTable:
    """Net of sales and refunds, and money, as the rules put it on each account and as it stands there."""
    heads = ("account", "purpose", "currency", "sales_side", "books", "difference", "reasons")
    table = SheetTable(
        "by account", words.text("by_account"), [words.text(name) for name in heads],
        [Kind.TEXT] * 3 + [Kind.FIGURE] * 3 + [Kind.TEXT], [22, 16, 9, 13, 13, 12, 15],
    )  # fmt: skip
    for row in report.accounts:
        at = len(table.rows)
        table.add(
            f"{row.account} {row.name}".strip(), ", ".join(map(words.term, row.used_for)), row.currency,
            figure(row, "source", "net"), figure(row, "books", "net"),
            Worked(figure(row, "difference", "net"), "{0}-{1}", (At(at, 3), At(at, 4))), why(row, words),
            is_open=not row.ties,
        )  # fmt: skip
    return table


def tenders(report: MonthReport, words: Words) -> SheetTable:
    """The money of each tender."""
    table = SheetTable(
        "tenders", words.text("tenders"),
        [words.text(name) for name in ("tender", "currency", "sales_side", "books", "difference", "reasons")],
        [Kind.TEXT] * 2 + [Kind.FIGURE] * 3 + [Kind.TEXT], [17, 10, 14, 14, 14, 31],
    )  # fmt: skip
    for row in report.tenders:
        at = len(table.rows)
        table.add(
            words.term(row.tender), row.currency, figure(row, "source", "gross"), figure(row, "books", "gross"),
            Worked(figure(row, "difference", "gross"), "{0}-{1}", (At(at, 2), At(at, 3))), why(row, words),
            is_open=not row.ties,
        )  # fmt: skip
    return table


def by_bridge(report: MonthReport, words: Words) -> SheetTable:
    """Sales and refunds together, bridge by bridge."""
    names = {one.slug: one.name for one in report.bridges}
    rows = [(names.get(row.bridge, row.bridge), row) for row in _in_total(report.by_bridge)]
    return _parted("bridges", "by_bridge", "bridge", rows, words)


def by_day(report: MonthReport, words: Words) -> SheetTable:
    """The same day by day."""
    return _parted("days", "by_day", "day", [(row.day, row) for row in _in_total(report.by_day)], words)


def _in_total(rows: Sequence[ReportRow]) -> list[ReportRow]:
    """Of each part the row of sales and refunds together, where it has both."""
    both = {(row.bridge, row.day, row.currency) for row in rows if row.section == "both"}
    return [row for row in rows if row.section == "both" or (row.bridge, row.day, row.currency) not in both]


def _parted(
    name: str, title: str, head: str, rows: Sequence[tuple[str | date | None, ReportRow]], words: Words
) -> SheetTable:  # fmt: skip
    """Gross of sales and refunds together, part by part, and what the parts come to in each currency."""
    table = SheetTable(
        name, words.text(title),
        [words.text(one) for one in (head, "currency", "count", "sales_side", "books", "difference", "reasons")],
        [Kind.TEXT] * 2 + [Kind.FIGURE] * 4 + [Kind.TEXT], [17, 9, 11, 13, 13, 13, 25],
    )  # fmt: skip
    for said, row in rows:
        at = len(table.rows)
        table.add(
            said, row.currency, row.source.count, figure(row, "source", "gross"), figure(row, "books", "gross"),
            Worked(figure(row, "difference", "gross"), "{0}-{1}", (At(at, 3), At(at, 4))), why(row, words),
            is_open=not row.ties,
        )  # fmt: skip
    for currency in dict.fromkeys(row.currency for _, row in rows):
        parts = [row for _, row in rows if row.currency == currency]
        table.add(
            words.text("total"), currency, summed(2, 1, table, sum(row.source.count for row in parts)),
            *(
                summed(column, 1, table, Amount(sum((getattr(row, side).gross for row in parts), ZERO), currency))
                for column, side in ((3, "source"), (4, "books"), (5, "difference"))
            ),
            "", strong=True,
        )  # fmt: skip
    return table


def summed(column: int, currencies: int, table: SheetTable, value: Amount | int) -> Worked:
    """What a column comes to in the currency that the row below all others names in its column ``currencies``."""
    last, total = len(table.rows) - len(table.strong) - 1, len(table.rows)
    of = (At(0, currencies), At(last, currencies), At(total, currencies), At(0, column), At(last, column))
    return Worked(value, "SUMIF({0}:{1},{2},{3}:{4})", of)


def why(row: ReportRow, words: Words) -> str:
    return "; ".join(dict.fromkeys(words.reason(part.reason) for part in row.parts))
