"""``inkwell months``: what is open in a month, accepting it, closing it, and its report."""

from __future__ import annotations

import sys
from collections.abc import Callable
from itertools import islice
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.tie_out import SECTIONS
from inkwell_bridge.client import MonthCalls
from inkwell_bridge.client.models import Month, OpenItem
from inkwell_bridge.core.cause_words import detail_in_words

ITEMS: list[output.Column] = [
    ("Open", lambda row: _named(row[0])),
    ("Documents>", lambda row: row[0].documents),
    ("Comes to", lambda row: _come_to(row[0])),
    ("Accepted", lambda row: row[1]),
]
CLOSINGS: list[output.Column] = [
    ("Closing>", lambda row: row.id),
    ("Company", lambda row: row.company),
    ("Month", lambda row: row.month),
    ("Number>", lambda row: row.number),
    ("Closed at", lambda row: row.closed_at),
    ("By", lambda row: row.closed_by),
    ("Changed since>", lambda row: row.changed),
    ("", lambda row: f"opened again by {row.reopening.by}: {row.reopening.note}" if row.reopening else ""),
]
SINCE: list[output.Column] = [
    ("Since it was closed", lambda row: SECTIONS.get(row.section, row.section)),
    ("", lambda row: row.currency),
    ("Sales side documents>", lambda row: row.source.count),
    ("Gross>", lambda row: row.source.gross),
    ("Books documents>", lambda row: row.books.count),
    ("Gross>", lambda row: row.books.gross),
]
CHANGES: list[output.Column] = [
    ("Document", lambda row: row.number),
    ("Kind", lambda row: row.kind),
    ("Since", lambda row: row.since),
    ("State", lambda row: row.state),
    ("", lambda row: row.currency),
    ("Sales side>", lambda row: row.source.gross),
    ("Books>", lambda row: row.books.gross),
]


@click.group()
def months() -> None:
    """Months of a company: what is open, accepting it, closing, and the report that is handed over."""


def _of_month(command: Callable[..., Any]) -> Callable[..., Any]:
    """Which month of which company a command is about."""
    return click.argument("company")(click.argument("month")(command))


def _calls(service: Service, company: str, month: str) -> MonthCalls:
    return service.workspace().month(company, month)


def _answer(found: Month, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
    else:
        _tell(found)


def _tell(found: Month) -> None:
    click.echo(f"{found.company}, {found.month}: {_state(found)}")
    accepted = {one.item.fingerprint: f"{one.by}: {one.note}" for one in found.accepted if one.stands}
    rows = [(item, accepted.get(item.fingerprint, "")) for item in found.items]
    if rows:
        output.table(rows, ITEMS, empty="")
    else:
        click.echo("No difference is open and no document differs: it ties.")
    if found.closing is not None:
        click.echo(f"Checksum {found.closing.checksum}, closing {found.closing.number}.")
        if found.since:
            output.table(found.since, SINCE, empty="")
        for differing in found.differing_since:
            click.echo(f"Since then {differing.documents} more: {differing.reason}.")
        if not found.since and not found.differing_since:
            click.echo("Nothing has changed in it since.")


def _state(found: Month) -> str:
    if found.closing is not None:
        return f"closed by {found.closing.closed_by} on {found.closing.closed_at:%Y-%m-%d}"
    if found.proposal is not None:
        return f"proposed by {found.proposal.by}; another person closes it"
    if found.left:
        items = "1 item" if found.left == 1 else f"{found.left} items"
        return f"open, {items} to be mended or accepted{'' if found.over else '; it is not over yet'}"
    return "can be closed" if found.over else "not over yet"


def _named(item: OpenItem) -> str:
    return f"{item.reason}: {detail_in_words(item.detail)}" if item.detail else item.reason


def _come_to(item: OpenItem) -> str:
    """Gross where it is of sales and refunds; else what it is of."""
    totals = {(one.section, one.currency): one.totals.gross for one in item.amounts if one.table == "totals"}
    if totals:
        return ", ".join(f"{section} {gross} {currency}" for (section, currency), gross in totals.items())
    # What stands on accounts says the same once more, but where nothing else does.
    told = [one for one in item.amounts if one.table != "accounts"] or item.amounts
    return ", ".join(f"{one.tax_code or one.tender or one.account} {one.totals.gross} {one.currency}" for one in told)


@months.command("show")
@_of_month
@json_option
@pass_service
@failing_well
def show(service: Service, company: str, month: str, as_json: bool) -> None:
    """Show what is open in a month, who accepted what, and whether it is closed.

    Ends with status 1 unless it is closed or can be, and while anything changed since it was closed.

    \b
    Example:
      inkwell months show marrowby-uk 2026-10
    """
    found = _calls(service, company, month).read()
    _answer(found, as_json)
    # A script that watches a closed month hears of every change in it.
    moved = bool(found.since or found.differing_since)
    if moved or (found.closing is None and (found.left or not found.over)):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@months.command("accept")
@_of_month
@click.argument("reason")
@click.option("--detail", default="", help="The cause of a hold, where several are open.")
@click.option("--note", required=True, help="Why it is right as it is.")
@json_option
@pass_service
@failing_well
def accept(
    service: Service, company: str, month: str, reason: str, detail: str, note: str, as_json: bool
) -> None:  # fmt: skip
    """Accept an open item of a month, with a note; it holds for the documents and amounts of now.

    \b
    Example:
      inkwell months accept marrowby-uk 2026-10 held --note "Two orders under query; carried in November"
    """
    calls = _calls(service, company, month)
    items = calls.read().items
    found = [one for one in items if one.reason == reason and detail in ("", one.detail)]
    # Never several at once: each has a reason of its own to be right as it is.
    if len(found) != 1:
        open_now = "; ".join(f"{one.reason}{f' --detail {one.detail}' if one.detail else ''}" for one in items)
        raise NoSuchThing(f"Say which of these is meant: {open_now or 'none is open'}.")
    _answer(calls.accept(found[0], note), as_json)


@months.command("unaccept")
@_of_month
@click.argument("reason")
@click.option("--detail", default="", help="The cause of a hold, where several were accepted.")
@json_option
@pass_service
@failing_well
def unaccept(service: Service, company: str, month: str, reason: str, detail: str, as_json: bool) -> None:
    """Take an acceptance back.

    \b
    Example:
      inkwell months unaccept marrowby-uk 2026-10 held
    """
    calls = _calls(service, company, month)
    found = [one for one in calls.read().accepted if one.reason == reason and detail in ("", one.detail)]
    if not found:
        raise NoSuchThing(f"Nobody accepted what is {reason} in {month}.")
    answer = None
    for one in found:
        answer = calls.not_accept(one.id)
    assert answer is not None
    _answer(answer, as_json)


@months.command("propose")
@_of_month
@click.option("--note", default="", help="What the other person should know.")
@click.option("--take-back", is_flag=True, help="Propose it no longer.")
@json_option
@pass_service
@failing_well
def propose(
    service: Service, company: str, month: str, note: str, take_back: bool, as_json: bool
) -> None:  # fmt: skip
    """Propose to close a month as it is now, where the company's rule asks for a second person.

    \b
    Example:
      inkwell months propose marrowby-uk 2026-10
    """
    calls = _calls(service, company, month)
    _answer(calls.not_propose() if take_back else calls.propose(note), as_json)


@months.command("close")
@_of_month
@click.option("--note", default="", help="What stands beside the closing.")
@json_option
@pass_service
@failing_well
def close(service: Service, company: str, month: str, note: str, as_json: bool) -> None:
    """Close a month: its figures are frozen, with a checksum chained to the closing before.

    \b
    Example:
      inkwell months close marrowby-uk 2026-10 --note "Agreed with the accountant"
    """
    _answer(_calls(service, company, month).close(note), as_json)


@months.command("reopen")
@_of_month
@click.option("--note", required=True, help="Why it is opened again.")
@json_option
@pass_service
@failing_well
def reopen(service: Service, company: str, month: str, note: str, as_json: bool) -> None:
    """Open a closed month again; only an owner may. Its closing stays in the chain.

    \b
    Example:
      inkwell months reopen marrowby-uk 2026-10 --note "An invoice was found in the wrong month"
    """
    _answer(_calls(service, company, month).reopen(note), as_json)


@months.command("changes")
@_of_month
@click.option("--limit", default=100, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def changes(service: Service, company: str, month: str, limit: int, as_json: bool) -> None:
    """List the documents that are otherwise in a month than when it was closed.

    \b
    Example:
      inkwell months changes marrowby-uk 2026-10
    """
    rows = list(islice(_calls(service, company, month).changes(), limit + 1))
    if as_json:
        output.as_json(rows[:limit])
        return
    output.table(rows[:limit], CHANGES, empty="Nothing has changed in it since it was closed.")
    if len(rows) > limit:
        click.echo("There are more; see more with --limit.", err=True)


@months.command("report")
@_of_month
@click.option("--form", type=click.Choice(["pdf", "xlsx", "json"]), help="Else as the file's name ends.")
@click.option("--language", type=click.Choice(["en", "de", "fr"]), help="Else the company's.")
@click.option("-o", "--output", "to", type=click.Path(dir_okay=False, path_type=Path), help="The file to write.")
@pass_service
@failing_well
def report(
    service: Service, company: str, month: str, form: str | None, language: str | None, to: Path | None
) -> None:  # fmt: skip
    """Write the report of a month: of a closed one the frozen figures, else as they are now.

    \b
    Examples:
      inkwell months report marrowby-uk 2026-10 -o october.pdf
      inkwell months report marrowby-uk 2026-10 -o oktober.xlsx --language de
    """
    ends_in = to.suffix.lstrip(".") if to else ""
    form = form or (ends_in if ends_in in ("pdf", "xlsx", "json") else "pdf")
    # Bytes that are no text would leave a terminal unusable.
    if to is None and form != "json" and sys.stdout.isatty():
        raise NoSuchThing("Say where it goes, such as: -o october.pdf")
    content = _calls(service, company, month).report(form, language or "")
    if to is None:
        sys.stdout.buffer.write(content)
    else:
        to.write_bytes(content)
        output.say(f"{to} was written.")


@months.command("list")
@click.option("--company", default="", help="Only of this company.")
@json_option
@pass_service
@failing_well
def list_closings(service: Service, company: str, as_json: bool) -> None:
    """List the closings, those that were opened again among them.

    \b
    Example:
      inkwell months list --company marrowby-uk
    """
    rows = list(service.workspace().closings(company=company))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, CLOSINGS, empty="No month is closed yet. Close one with: inkwell months close")


@months.command("verify")
@click.argument("company")
@json_option
@pass_service
@failing_well
def verify(service: Service, company: str, as_json: bool) -> None:
    """Work every checksum of a company's closings out anew, from the first to the last.

    Ends with status 1 where the chain does not hold.

    \b
    Example:
      inkwell months verify marrowby-uk
    """
    found = service.workspace().verify_closings(company)
    if as_json:
        output.as_json(found)
    else:
        for one in found.broken:
            click.echo(f"Closing {one.number}: {one.why}")
        closings = "1 closing" if found.closings == 1 else f"{found.closings} closings"
        click.echo(f"{closings} of {company}: {'the chain holds' if found.holds else 'it does not hold'}.")
    if not found.holds:
        raise click.exceptions.Exit(NEEDS_A_PERSON)
