"""``inkwell tie-out``: both sides of a period, the difference by its reasons, and the documents behind it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from decimal import Decimal
from itertools import islice
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client import SheetCalls
from inkwell_bridge.client.models import BehindDocument, SheetRow, TieOut, Totals
from inkwell_bridge.core.cause_words import detail_in_words
from inkwell_bridge.core.proof import WITH_DETAIL

SECTIONS = {"sales": "Sales", "refunds": "Refunds", "both": "Both together"}


def _period(command: Callable[..., Any]) -> Callable[..., Any]:
    """The days and the bridges that a command is about."""
    for option in (
        click.option("--company", help="Only of this company."),
        click.option("--bridge", help="Only over this bridge."),
        click.option("--to", "last", type=click.DateTime(["%Y-%m-%d"]), help="Last day; else of the current month."),
        click.option("--from", "first", type=click.DateTime(["%Y-%m-%d"]), help="First day; else of the month."),
    ):
        command = option(command)
    return command


def _sheet(service: Service, first: datetime | None, last: datetime | None, **of: str | None) -> SheetCalls:
    return service.workspace().sheet(first=first.date() if first else None, last=last.date() if last else None, **of)


@click.group("tie-out", invoke_without_command=True)
@_period
@json_option
@pass_service
@failing_well
def tie_out(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Hold both sides of a period against each other; every difference has its reasons.

    Ends with status 1 unless it ties: while something is held or waits, is otherwise in the books than planned, or is
    unexplained, and while any document differs there, whatever the sums say.

    \b
    Examples:
      inkwell tie-out --from 2026-10-01 --to 2026-10-31
      inkwell tie-out days --from 2026-10-01 --to 2026-10-31
      inkwell tie-out documents --from 2026-10-01 --to 2026-10-31 --reason held
    """
    if click.get_current_context().invoked_subcommand is not None:
        return
    found = _sheet(service, first, last, bridge=bridge, company=company).read()
    if as_json:
        output.as_json(found)
    else:
        _tell(found)
    if not found.ties:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _tell(found: TieOut) -> None:
    click.echo(f"{found.first} to {found.last}")
    if not found.rows:
        click.echo("Nothing stands on either side in this period.")
    for row in found.rows:
        _headline(row)
    for rows, columns in ((found.tax_codes, TAX_CODES), (found.accounts, ACCOUNTS), (found.tenders, TENDERS)):
        if rows:
            output.table(rows, columns, empty="")
    for differing in found.differing:
        click.echo(f"{_counted(differing.documents)} {'is' if differing.documents == 1 else 'are'} {differing.reason}.")
    if found.rows:
        click.echo("It ties." if found.ties else "It does not tie yet.")


def _counted(number: int) -> str:
    return f"{number} {'document' if number == 1 else 'documents'}"


def _headline(row: SheetRow) -> None:
    rows: list[tuple[str, Totals]] = [("Source", row.source), ("Books", row.books), ("Difference", row.difference)]
    rows += [(f"  {_named(part.reason, part.detail)}{'' if part.settled else ' *'}", part)
             for part in row.parts if part.reason != "unexplained"]  # fmt: skip
    rows.append(("  unexplained", row.unexplained))
    columns: list[output.Column] = [
        (f"{SECTIONS[row.section]}, {row.currency or 'no currency'}", lambda one: one[0]),
        ("Documents>", lambda one: one[1].count),
        ("Net>", lambda one: one[1].net),
        ("Tax>", lambda one: one[1].tax),
        ("Gross>", lambda one: one[1].gross),
    ]
    output.table(rows, columns, empty="")


def _named(reason: str, detail: str) -> str:
    return f"{reason}: {detail_in_words(detail)}" if detail else reason


TAX_CODES: list[output.Column] = [
    ("Tax code", lambda row: row.tax_code),
    ("", lambda row: row.currency),
    ("Source net>", lambda row: row.source.net),
    ("Source tax>", lambda row: row.source.tax),
    ("Books net>", lambda row: row.books.net),
    ("Books tax>", lambda row: row.books.tax),
    ("Explained>", lambda row: row.difference.gross - row.unexplained.gross),
    ("Unexplained>", lambda row: row.unexplained.gross),
]
ACCOUNTS: list[output.Column] = [
    ("Account", lambda row: f"{row.account} {row.name}".strip()),
    ("For", lambda row: ", ".join(row.used_for)),
    ("", lambda row: row.currency),
    ("Source net>", lambda row: row.source.net),
    ("Books net>", lambda row: row.books.net),
    ("Explained>", lambda row: row.difference.net - row.unexplained.net),
    ("Unexplained>", lambda row: row.unexplained.net),
]
TENDERS: list[output.Column] = [
    ("Tender", lambda row: row.tender),
    ("", lambda row: row.currency),
    ("Source>", lambda row: row.source.gross),
    ("Not as money>", lambda row: row.part("not as money").gross + row.part("converted").gross),
    ("Books>", lambda row: row.books.gross),
    ("Other reasons>", lambda row: _other_reasons(row)),
    ("Unexplained>", lambda row: row.unexplained.gross),
]


def _other_reasons(row: SheetRow) -> Decimal:
    told = ("not as money", "converted", "unexplained")
    return sum((part.gross for part in row.parts if part.reason not in told), row.source.gross * 0)


@tie_out.command()
@_period
@json_option
@pass_service
@failing_well
def days(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Both sides day by day, and which of the days tie.

    \b
    Example:
      inkwell tie-out days --from 2026-10-24 --to 2026-10-31
    """
    _list(_sheet(service, first, last, bridge=bridge, company=company).days(), "Day", lambda row: row.day, as_json)


@tie_out.command("bridges")
@_period
@json_option
@pass_service
@failing_well
def by_bridge(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Both sides bridge by bridge.

    \b
    Example:
      inkwell tie-out bridges --from 2026-10-01 --to 2026-10-31
    """
    found = _sheet(service, first, last, bridge=bridge, company=company).bridges()
    _list(found, "Bridge", lambda row: row.bridge, as_json)


@tie_out.command("payouts")
@_period
@json_option
@pass_service
@failing_well
def by_kind_of_entry(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """What providers paid out, and what they took before: as they tell it, and as the books hold it.

    Ends with status 1 where the two are not the same.

    \b
    Example:
      inkwell tie-out payouts --from 2026-10-01 --to 2026-10-31
    """
    found = _sheet(service, first, last, bridge=bridge, company=company).payouts()
    if as_json:
        output.as_json(found)
    else:
        output.table(found, PAID_OUT, empty="Nothing was paid out in this period.")
    if any(row.difference for row in found):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


PAID_OUT: list[output.Column] = [
    ("Bridge", lambda row: row.bridge),
    ("", lambda row: row.what),
    ("", lambda row: row.currency),
    ("Payouts>", lambda row: row.documents),
    ("Provider>", lambda row: row.source),
    ("Books>", lambda row: row.books),
    ("Difference>", lambda row: row.difference),
]


def _list(rows: Sequence[SheetRow], head: str, name: Callable[[SheetRow], Any], as_json: bool) -> None:
    columns: list[output.Column] = [
        (head, name),
        ("", lambda row: SECTIONS[row.section]),
        ("", lambda row: row.currency),
        ("Source>", lambda row: row.source.gross),
        ("Books>", lambda row: row.books.gross),
        ("Difference>", lambda row: row.difference.gross),
        ("Ties", lambda row: "yes" if row.ties else "no: " + ", ".join(_open(row))),
    ]
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, columns, empty="Nothing stands on either side in this period.")


def _open(row: SheetRow) -> Iterator[str]:
    """The reasons that somebody has to look at."""
    yield from dict.fromkeys(part.reason for part in row.parts if not part.settled)


def _behind(measure: str) -> list[output.Column]:
    return [
        ("Document", lambda row: row.number),
        ("Kind", lambda row: row.kind),
        ("Day", lambda row: row.date),
        ("", lambda row: row.currency),
        ("Source>", lambda row: getattr(row.source, measure)),
        ("Books>", lambda row: getattr(row.books, measure)),
        ("Difference>", lambda row: getattr(row.difference, measure)),
        ("Why", lambda row: "; ".join(_why(row))),
    ]


def _why(row: BehindDocument) -> Iterator[str]:
    for reason in row.reasons:
        yield _named(reason, row.detail if reason in WITH_DETAIL else "")


@tie_out.command()
@_period
@click.option("--section", type=click.Choice(["sales", "refunds", "both", "money"]), default="both", show_default=True)
@click.option("--currency", default="", help="Only in this currency.")
@click.option("--tax-code", default="", help="Only what stands under this tax code.")
@click.option(
    "--account", default="", help="Only what stands on this account of the books; of money, with --section money."
)
@click.option("--tender", default="", help="With --section money: only of this tender.")
@click.option("--reason", default="", help="Only where this reason stands between the sides, as the sheet says it.")
@click.option("--limit", default=100, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def documents(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    limit: int, as_json: bool, **wanted: str,
) -> None:  # fmt: skip
    """The source documents behind an amount of the sheet, each with what it has on both sides.

    \b
    Example:
      inkwell tie-out documents --from 2026-10-01 --to 2026-10-31 --reason "left out"
    """
    given = {name: value for name, value in wanted.items() if value}
    rows = list(islice(_sheet(service, first, last, bridge=bridge, company=company).documents(**given), limit + 1))
    if as_json:
        output.as_json(rows[:limit])
        return
    # On an account stands the net; its tax is elsewhere.
    columns = _behind("net" if given.get("account") else "gross")
    output.table(rows[:limit], columns, empty="No document stands behind that in this period.")
    if len(rows) > limit:
        click.echo("There are more; see more with --limit.", err=True)
