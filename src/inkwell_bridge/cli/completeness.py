"""``inkwell completeness``: whether everything that the sales side has was read."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal
from itertools import islice

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.rehearsals import days, followed, period
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import (
    CompletenessCheck,
    CompletenessCheckHead,
    EnteredInBooks,
    KindCompleteness,
    SumIn,
)

CHECKS: list[output.Column] = [
    ("Check>", lambda row: row.id),
    ("Bridge", lambda row: row.bridge),
    ("First day", lambda row: row.first),
    ("Last day", lambda row: row.last),
    ("Asked at", lambda row: row.asked_at),
    ("By", lambda row: row.asked_by or "each day"),
    ("Complete", lambda row: _verdict(row)),
]
SIDES: list[output.Column] = [
    ("", lambda row: row[0]),
    ("Listed>", lambda row: row[1].count),
    ("Gross>", lambda row: row[1].gross),
    ("Counted>", lambda row: row[2] and row[2].count),
    ("Gross>", lambda row: row[2] and row[2].gross),
    ("Here>", lambda row: row[3].count),
    ("Gross>", lambda row: row[3].gross),
]
DOCUMENTS: list[output.Column] = [
    ("Document", lambda row: row.number),
    ("", lambda row: row.became),
    ("", lambda row: row.currency),
    ("Gross>", lambda row: row.gross),
]
LACKING: list[output.Column] = [
    ("Day", lambda row: row.date),
    ("Document", lambda row: row.number or f"{abs(row.count)} without a number"),
    ("Kind", lambda row: row.kind),
    ("Bridge", lambda row: row.bridge),
    ("Why", lambda row: row.reason),
    ("", lambda row: row.currency),
    ("Gross>", lambda row: row.gross),
]
MOST_GAPS = 20
NOT_POSTED_HERE = "under our reference, and not posted from here"
ZERO = Decimal(0)


@click.group()
def completeness() -> None:
    """Whether everything that the sales side has was read: what it lists and counts, beside what is here."""


def _verdict(check: CompletenessCheckHead) -> str:
    if check.complete is None:
        return check.state
    return "yes" if check.complete else "no"


@completeness.command("check")
@click.argument("bridge")
@period
@json_option
@pass_service
@failing_well
def check(service: Service, bridge: str, first: datetime | None, last: datetime | None, as_json: bool) -> None:
    """Hold what the sales side lists of some days against what is here; what was never read is fetched.

    Ends with status 1 where anything is lacking.

    \b
    Examples:
      inkwell completeness check web-shop-to-uk-books
      inkwell completeness check web-shop-to-uk-books --first 2026-10-01 --last 2026-10-31
    """
    workspace = service.workspace()
    calls = workspace.completeness
    asked = calls.check(bridge=bridge, **days(first, last))
    _answer(followed(asked, calls.read, lambda number: _cancelled(workspace, number), "Check", "Reading the lists",
                     quiet=as_json), as_json=as_json)  # fmt: skip


def _cancelled(workspace: WorkspaceCalls, number: int) -> CompletenessCheck:
    workspace.completeness.cancel(number)
    return workspace.completeness.read(number)


@completeness.command("list")
@click.option("--bridge", help="Only of this bridge.")
@click.option("--limit", type=click.IntRange(1, 10_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, bridge: str | None, limit: int, as_json: bool) -> None:
    """List the checks, the newest first: each day's own, and those that somebody asked for.

    \b
    Example:
      inkwell completeness list --bridge web-shop-to-uk-books
    """
    rows = list(islice(service.workspace().completeness.checks(bridge=bridge or ""), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, CHECKS, empty="Nothing was checked yet: inkwell completeness check BRIDGE")


@completeness.command("show")
@click.argument("number", type=int, metavar="CHECK")
@json_option
@pass_service
@failing_well
def show(service: Service, number: int, as_json: bool) -> None:
    """Show a check that was made before.

    \b
    Example:
      inkwell completeness show 3
    """
    _answer(service.workspace().completeness.read(number), as_json=as_json)


@completeness.command("lacking")
@period
@click.option("--bridge", help="Only over this bridge.")
@click.option("--company", help="Only of this company.")
@json_option
@pass_service
@failing_well
def lacking(
    service: Service, first: datetime | None, last: datetime | None, bridge: str | None, company: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """List the documents that are not here, by what the newest check of each day found.

    \b
    Example:
      inkwell completeness lacking --first 2026-10-01 --last 2026-10-31
    """
    calls = service.workspace().completeness
    first_day, last_day = days(first, last).values()
    rows = list(calls.lacking(first=first_day, last=last_day, bridge=bridge or "", company=company or ""))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, LACKING, empty="Nothing is known to be lacking.")


def _answer(found: CompletenessCheck, *, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
    elif found.result is not None:
        click.echo(f"{found.bridge}, {found.first} to {found.last}")
        for kind in found.result.kinds:
            _tell(kind)
        for one in found.result.not_compared:
            click.echo(f"{one.kind.capitalize()} could not be checked: {one.why}.")
        _tell_books(found.result.in_books)
        click.echo("Everything is here." if found.complete else "Something is lacking, or could not be checked.")
    elif not found.trouble:
        output.say(f"Check {found.id} is {found.state}: there is nothing to show yet.")
    if not found.complete:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _tell_books(found: EnteredInBooks) -> None:
    if found.why_not:
        click.echo(f"What was entered in the books could not be read: {found.why_not}.")
    counts = ((found.by_hand, "entered by hand"), (found.not_posted_here, NOT_POSTED_HERE))
    told = [f"{number} {what}" for number, what in counts if number]
    if told:
        more = f", and {len(found.numbers) - MOST_GAPS} more" if len(found.numbers) > MOST_GAPS else ""
        accounts, numbers = ", ".join(found.accounts), ", ".join(found.numbers[:MOST_GAPS])
        click.echo(f"In the books, on accounts {accounts}: {', '.join(told)} ({numbers}{more}).")


def _tell(kind: KindCompleteness) -> None:
    click.echo(f"\n{kind.kind.capitalize()}")
    output.table(list(_sides(kind)), SIDES, empty="None is listed, and none is here.")
    for one in kind.counted_otherwise:
        click.echo(f"Counted and not listed: {one.count} of {one.gross} {one.currency}.")
    if kind.documents:
        output.table(kind.documents, DOCUMENTS, empty="")
    left = sum(one.documents for one in kind.counts) - len(kind.documents)
    if left:
        click.echo(f"and {left} more.")
    if kind.gaps:
        named = ", ".join(gap.number for gap in kind.gaps[:MOST_GAPS])
        more = f", and {len(kind.gaps) - MOST_GAPS} more" if len(kind.gaps) > MOST_GAPS else ""
        click.echo(f"Numbers without a document: {named}{more}.")


def _sides(kind: KindCompleteness) -> Iterator[tuple[str, SumIn, SumIn | None, SumIn]]:
    """By currency what the sales side lists, what it counts itself (nothing where it does not), and what is here."""
    sides = [{one.currency: one for one in sums} for sums in (kind.listed, kind.told or (), kind.here)]
    for currency in sorted({name for side in sides for name in side}):
        listed, told, here = (side.get(currency) or SumIn(currency=currency, count=0, gross=ZERO) for side in sides)
        yield currency, listed, None if kind.told is None else told, here
