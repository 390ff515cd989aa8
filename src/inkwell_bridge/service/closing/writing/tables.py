"""The tables of a report: what stands in them, in what order, and what adds up to what; each file draws them its way.

A cell that is worked out of others says how, so that a spreadsheet works it out anew.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from inkwell_bridge.core.clearing import AGES
from inkwell_bridge.core.closing import AcceptedItem, AgeOfOpen, ClosedReport, MonthReport, OpenItem, ReportRow, Seal
from inkwell_bridge.core.proof import Reason, Table
from inkwell_bridge.service.closing.writing import breakdowns
from inkwell_bridge.service.closing.writing.breakdowns import figure, summed
from inkwell_bridge.service.closing.writing.cells import Amount, At, Cell, Kind, SheetTable, Worked
from inkwell_bridge.service.closing.writing.words import Words

ZERO = Decimal(0)


MEASURES = ("count", "net", "tax", "gross")


def tables_of(closed: ClosedReport, words: Words) -> Iterator[SheetTable]:
    """All tables of a report, in the order in which it is read; one that has nothing to say is left out."""
    report = closed.report
    reasons = _reasons(report, words)
    found = (
        _both_sides(report, reasons, words), reasons.table, _acceptances(report, words),
        breakdowns.tax_codes(report, words), breakdowns.accounts(report, words), breakdowns.tenders(report, words),
        breakdowns.by_bridge(report, words), breakdowns.by_day(report, words), _payouts(report, words),
        _accounts(report, words), _by_age(report, words), _documents(report, words),
    )  # fmt: skip
    return (table for table in found if table.rows or table.empty)


def facts_of(report: MonthReport, words: Words) -> list[tuple[str, str]]:
    """Whose month it is, and which: names, and what is said of each."""
    days = words.text("days", first=words.day(report.first), last=words.day(report.last))
    return [
        (words.text("client"), report.company.client),
        (words.text("company"), report.company.name),
        (words.text("period"), days),
        (words.text("days_by"), report.company.time_zone),
        *((words.text("bridge"), f"{one.name}: {one.sales_side} → {one.books}") for one in report.bridges),
    ]


def closed_in_words(seal: Seal, report: MonthReport, words: Words) -> str:
    """By whom it was closed, and when by the company's clocks."""
    return words.text("closed", by=seal.closed_by, at=words.moment(seal.closed_at, report.company.time_zone))


def seal_of(seal: Seal, report: MonthReport, words: Words) -> list[tuple[str, str]]:
    """Who closed it, and the checksum, with what is needed to work that out anew."""
    return [
        (words.text("closing_number"), words.number(seal.number)),
        ("", closed_in_words(seal, report, words)),
        *([("", words.text("proposed", by=seal.proposed_by))] if seal.proposed_by else []),
        *([(words.text("note"), seal.note)] if seal.note else []),
        (words.text("checksum"), seal.checksum),
        (words.text("previous"), seal.previous),
    ]


@dataclass(slots=True)
class _Reasons:
    """The table of reasons, and which of its rows are of which section and currency."""

    table: SheetTable
    rows: dict[tuple[str, str], list[int]] = field(default_factory=dict)


def _reasons(report: MonthReport, words: Words) -> _Reasons:
    table = SheetTable(
        "reasons", words.text("reasons"),
        [words.text(name) for name in ("section", "currency", "reason", "state", *MEASURES)],
        [Kind.TEXT] * 4 + [Kind.FIGURE] * 4, [15, 9, 24, 9, 11, 12, 10, 12], empty=words.text("no_difference"),
    )  # fmt: skip
    found = _Reasons(table)
    for row in report.headline:
        # What both come to together is the sum of these; told twice, it would be counted twice.
        if row.section == "both":
            continue
        for part in row.parts:
            state = _state(part.settled, (part.reason, part.detail), report)
            at = table.add(
                words.text(row.section), row.currency, words.reason(part.reason, part.detail), words.text(state),
                part.totals.count, *(Amount(getattr(part.totals, name), row.currency) for name in MEASURES[1:]),
                is_open=state == "open",
            )  # fmt: skip
            found.rows.setdefault((row.section, row.currency), []).append(at)
    return found


def _state(settled: bool, item: tuple[str, str], report: MonthReport) -> str:
    if settled:
        return "settled"
    return "accepted" if any((one.item.reason.value, one.item.detail) == item for one in report.accepted) else "open"


def _both_sides(report: MonthReport, reasons: _Reasons, words: Words) -> SheetTable:
    """Each figure of the headline: both sides, the difference, what the reasons come to, and what is left: nothing."""
    table = SheetTable(
        "both", words.text("tie_out"),
        [words.text(name) for name in ("section", "currency")] + [""]
        + [words.text(name) for name in ("sales_side", "books", "difference", "reasons", "unexplained")],
        [Kind.TEXT] * 3 + [Kind.FIGURE] * 5, [14, 9, 12, 13, 13, 13, 14, 13], empty=words.text("nothing"),
    )  # fmt: skip
    places: dict[tuple[str, str, str], int] = {}
    for row in report.headline:
        for measure in MEASURES:
            at = len(table.rows)
            places[row.section, row.currency, measure] = at
            table.add(
                words.text(row.section) if measure == MEASURES[0] else "", row.currency, words.text(measure),
                _side(row, "source", measure, places), _side(row, "books", measure, places),
                Worked(figure(row, "difference", measure), "{0}-{1}", (At(at, 3), At(at, 4))),
                _of_reasons(row, measure, reasons, places),
                Worked(_less(row, measure), "{0}-{1}", (At(at, 5), At(at, 6))),
                strong=measure == "gross", is_open=measure == "gross" and not row.ties,
            )  # fmt: skip
    return table


def _side(row: ReportRow, side: str, measure: str, places: dict[tuple[str, str, str], int]) -> Cell:
    """A side's figure; of both together the sum of the two above."""
    value = figure(row, side, measure)
    if row.section != "both":
        return value
    column = 3 if side == "source" else 4
    return _added(value, _parts_of_both(row, column, measure, places))


def _of_reasons(
    row: ReportRow, measure: str, reasons: _Reasons, places: dict[tuple[str, str, str], int]
) -> Cell:  # fmt: skip
    named = _named(row, measure)
    value = named if measure == "count" else Amount(Decimal(named), row.currency)
    if row.section == "both":
        of = _parts_of_both(row, 6, measure, places)
    else:
        column = 4 + MEASURES.index(measure)
        of = [At(at, column, "reasons") for at in reasons.rows.get((row.section, row.currency), [])]
    assert not isinstance(value, Decimal)
    return _added(value, of)


def _parts_of_both(
    row: ReportRow, column: int, measure: str, places: dict[tuple[str, str, str], int]
) -> list[At]:  # fmt: skip
    keys = ((section, row.currency, measure) for section in ("sales", "refunds"))
    return [At(places[key], column) for key in keys if key in places]


def _added(value: Amount | int, of: Sequence[At]) -> Cell:
    return Worked(value, "+".join(f"{{{number}}}" for number in range(len(of))), tuple(of)) if of else value


def _named(row: ReportRow, measure: str) -> int | Decimal:
    return sum((getattr(part.totals, measure) for part in row.parts), 0 if measure == "count" else ZERO)


def _less(row: ReportRow, measure: str) -> Amount | int:
    left = getattr(row.difference, measure) - _named(row, measure)
    return left if measure == "count" else Amount(left, row.currency)


def _payouts(report: MonthReport, words: Words) -> SheetTable:
    names = ("charges", "refunds", "fees", "other")
    table = SheetTable(
        "payouts", words.text("payouts"),
        [words.text(name) for name in ("payout", "day", "currency", *names, "to_bank", "state")],
        [Kind.TEXT] * 3 + [Kind.FIGURE] * 5 + [Kind.TEXT], [16, 12, 10, 12, 12, 10, 11, 12, 10],
    )  # fmt: skip
    for one in report.payouts:
        at = len(table.rows)
        table.add(
            one.number, one.day, one.currency, *(Amount(getattr(one, name), one.currency) for name in names),
            Worked(Amount(one.amount, one.currency), "{0}+{1}+{2}+{3}", tuple(At(at, 3 + n) for n in range(4))),
            words.term(one.state), is_open=one.state in ("held", "waiting", "differs"),
        )  # fmt: skip
    for currency in dict.fromkeys(one.currency for one in report.payouts):
        parts = [one for one in report.payouts if one.currency == currency]
        sums = (
            summed(column, 2, table, Amount(sum((getattr(one, name) for one in parts), ZERO), currency))
            for column, name in enumerate((*names, "amount"), start=3)
        )
        table.add(words.text("total"), "", currency, *sums, "", strong=True)
    return table


def _accounts(report: MonthReport, words: Words) -> SheetTable:
    ages = [_age(up_to, words) for up_to in (*AGES, None)]
    table = SheetTable(
        "accounts", words.text("accounts"),
        [words.text(name) for name in ("account", "purpose", "currency", "balance")] + ages + [words.text("proved")],
        [Kind.TEXT] * 3 + [Kind.FIGURE] * 5 + [Kind.TEXT], [15, 13, 10, 12, 10, 10, 10, 11, 13],
    )  # fmt: skip
    for one in report.money_accounts:
        by_age = {age.up_to: age.amount for age in one.ages}
        aged = (Amount(by_age[up_to], one.currency) if up_to in by_age else None for up_to in (*AGES, None))
        proved = words.text("not_proved") if one.proved is None else words.text("yes" if one.proved else "no")
        table.add(
            f"{one.account} {one.name}".strip(), ", ".join(map(words.term, one.purposes)), one.currency,
            Amount(one.balance, one.currency) if one.balance is not None else None, *aged, proved,
            is_open=one.proved is False,
        )  # fmt: skip
    return table


def _by_age(report: MonthReport, words: Words) -> SheetTable:
    table = SheetTable(
        "ages", words.text("open_by_age"),
        [words.text(name) for name in ("state", "age", "currency", "count", "amount")],
        [Kind.TEXT] * 3 + [Kind.FIGURE] * 2, [26, 26, 12, 14, 22], empty=words.text("all_carried"),
    )  # fmt: skip
    for one in report.open_by_age:
        table.add(words.term(one.state), _age(one.up_to, words), one.currency, one.count, _amount(one))
    return table


def _amount(one: AgeOfOpen) -> Cell:
    return Amount(one.amount, one.currency) if one.currency else None


def _age(up_to: int | None, words: Words) -> str:
    return words.text("age_older", days=AGES[-1]) if up_to is None else words.text("age_up_to", days=up_to)


def _acceptances(report: MonthReport, words: Words) -> SheetTable:
    """Every open item with who accepted it; one that nobody did is open."""
    table = SheetTable(
        "accepted", words.text("acceptances"),
        [words.text(name) for name in ("reason", "count", "amount", "who")],
        [Kind.TEXT, Kind.FIGURE, Kind.TEXT, Kind.TEXT], [27, 11, 23, 39],
    )  # fmt: skip
    accepted = {one.item.fingerprint: one for one in report.accepted}
    for item in report.open_items:
        one = accepted.get(item.fingerprint)
        said = _accepted(one, report, words) if one else words.text("open")
        table.add(words.reason(item.reason, item.detail), item.documents, _come_to(item, words), said,
                  is_open=one is None)  # fmt: skip
    return table


def _accepted(one: AcceptedItem, report: MonthReport, words: Words) -> str:
    at = words.moment(one.at, report.company.time_zone)
    return words.text("accepted_by", by=one.by, at=at, note=one.note)


def _come_to(item: OpenItem, words: Words) -> str:
    """What an item comes to: gross by currency, where it is of sales and refunds; else what it is of."""
    sums: dict[str, Decimal] = {}
    for part in item.in_short:
        if part.table is Table.TOTALS:
            sums[part.currency] = sums.get(part.currency, ZERO) + part.totals.gross
    others = {
        f"{place} {words.amount(part.totals.gross, part.currency)} {part.currency}"
        for part in item.in_short
        if part.table is not Table.TOTALS
        for place in [words.term(part.tax_code or part.account or part.tender)]
    }
    told = [f"{words.amount(amount, currency)} {currency}" for currency, amount in sums.items()] or sorted(others)
    return "; ".join(told) or "–"


def _documents(report: MonthReport, words: Words) -> SheetTable:
    table = SheetTable(
        "documents", words.text("documents"),
        [words.text(name) for name in ("document", "day", "reason", "currency", "net", "tax", "gross")],
        [Kind.TEXT] * 4 + [Kind.FIGURE] * 3, [14, 11, 34, 10, 11, 10, 11],
    )  # fmt: skip
    for one in report.documents:
        under = one.tax_code or one.account or words.term(one.tender)
        reason = words.reason(one.reason, one.detail)
        table.add(
            one.number, one.day, f"{reason} ({under})" if under else reason, one.currency,
            *(Amount(getattr(one.totals, name), one.currency) for name in MEASURES[1:]),
            is_open=one.reason == Reason.UNEXPLAINED,
        )  # fmt: skip
    if report.documents_left_out:
        table.after = words.text("left_out", number=words.number(report.documents_left_out))
    return table
