"""``inkwell documents`` and ``inkwell holds``."""

from __future__ import annotations

import time
from datetime import datetime
from itertools import islice
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.rehearsals import export
from inkwell_bridge.cli.spread import show_spread
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import Crossing, Spread

# Enough for every order of one number, and for near ones to be told.
MOST_LOOKED_THROUGH = 200
STATES = ["waiting", "carried", "adopted", "held", "differs", "left out"]
_LOOK_EVERY_SECONDS = 1.0


def _there(crossing: Crossing, name: str) -> Any:
    return getattr(crossing.in_books, name) if crossing.in_books else None


def _gross_there(crossing: Crossing) -> str:
    """What it comes to there, with its currency where that is another than the order's."""
    there = crossing.in_books
    if there is None or there.gross is None:
        return ""
    return f"{there.gross}" if there.currency == crossing.currency else f"{there.gross} {there.currency}"


def _numbered(crossing: Crossing) -> str:
    """The number of its first document there, and how many further ones made later changes good."""
    there = crossing.in_books
    return "" if there is None else f"{there.number} +{there.further}" if there.further else there.number


COLUMNS: list[output.Column] = [
    ("Order", lambda row: row.number),
    ("Placed", lambda row: row.placed_at and row.placed_at.astimezone(ZoneInfo(row.time_zone))),
    ("Gross>", lambda row: row.gross),
    ("", lambda row: row.currency),
    ("State", lambda row: row.state),
    ("Why", lambda row: row.cause or (row.left_out_by and output.rule(row.left_out_by)) or row.trouble),
    ("In the books", _numbered),
    ("Gross there>", _gross_there),
    ("Rounding>", lambda row: _there(row, "difference")),
]


@click.group()
def documents() -> None:
    """Orders and what they became."""


@documents.command("list")
@click.option("--bridge", help="Only over this bridge.")
@click.option("--kind", help="Only of this kind, such as orders, refunds or payouts.")
@click.option(
    "--state", "states", multiple=True, type=click.Choice(STATES), help="Only in this state; can be repeated."
)
@click.option("--cause", help="Only held by this cause.")
@click.option("--run", "run_number", type=int, help="Only what this run read.")
@click.option("--from", "first", type=click.DateTime(["%Y-%m-%d"]), help="Placed on this day or later.")
@click.option("--to", "last", type=click.DateTime(["%Y-%m-%d"]), help="Placed on this day or earlier.")
@click.option("--search", help="Part of the number on either side.")
@click.option("--limit", default=50, show_default=True, help="How many at most; 0 for all.")
@json_option
@pass_service
@failing_well
def list_(
    service: Service,
    bridge: str | None,
    kind: str | None,
    states: tuple[str, ...],
    cause: str | None,
    run_number: int | None,
    first: datetime | None,
    last: datetime | None,
    search: str | None,
    limit: int,
    as_json: bool,
) -> None:
    """List orders and what became of each, newest first.

    \b
    Examples:
      inkwell documents list --state held
      inkwell documents list --from 2026-10-01 --to 2026-10-07 --json
    """
    found = service.workspace().crossings(
        bridge=bridge,
        kind=kind,
        state=list(states),
        cause=cause,
        run=run_number,
        search=search,
        placed_from=first and first.date().isoformat(),
        placed_to=last and last.date().isoformat(),
    )
    rows = list(islice(found, limit or None))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="No documents fit. Widen the filters, or start with: inkwell run BRIDGE")


@documents.command("show")
@click.argument("number")
@click.option("--bridge", help="Over this bridge, where two read the same order.")
@json_option
@pass_service
@failing_well
def show(service: Service, number: str, bridge: str | None, as_json: bool) -> None:
    """Show both sides of one order, the difference, and the reason of every amount.

    NUMBER is the order's or the document's in the books.

    \b
    Example:
      inkwell documents show MW-10009
    """
    spread = find_document(service.workspace(), number, bridge)
    if as_json:
        output.as_json(spread)
    else:
        show_spread(spread)


LOG: list[output.Column] = [
    ("At", lambda row: row.at),
    ("What", lambda row: row.text),
    ("Took>", lambda row: "" if row.milliseconds is None else f"{row.milliseconds} ms"),
    ("Outcome", lambda row: row.outcome),
    ("By", lambda row: row.by or (f"run {row.run}" if row.run else "")),
]


@documents.command("log")
@click.argument("number")
@click.option("--bridge", help="Over this bridge, where two read the same order.")
@click.option("--lines", "lines", type=click.Path(dir_okay=False, path_type=Path),
              help="Write it into this file as JSON Lines, with what was sent and answered.")  # fmt: skip
@json_option
@pass_service
@failing_well
def log(service: Service, number: str, bridge: str | None, lines: Path | None, as_json: bool) -> None:
    """Show what happened to one order, and every call to an end about it, in the order of time.

    NUMBER is the order's or the document's in the books. Secrets and people are never written down.

    \b
    Examples:
      inkwell documents log MW-10009
      inkwell documents log MW-10009 --lines log.jsonl
    """
    workspace = service.workspace()
    found = find_document(workspace, number, bridge)
    if lines is not None:
        lines.write_bytes(workspace.log_lines(found.id))
        output.say(f"The log of {found.number} is in {lines}.")
    elif as_json:
        output.as_json(workspace.log(found.id))
    else:
        output.table(workspace.log(found.id), LOG, empty="")


def find_document(workspace: WorkspaceCalls, number: str, bridge: str | None) -> Spread:
    """The one document with that number on either side.

    Raises:
        NoSuchThing: there is none, or more than one.
    """
    found = list(islice(workspace.crossings(search=number, bridge=bridge), MOST_LOOKED_THROUGH))
    exact = [row for row in found if number in {row.number, *(made.books_number for made in row.documents)}]
    if len(exact) != 1:
        close = ", ".join(row.number for row in found[:5])
        if exact:
            bridges = ", ".join(sorted({row.bridge for row in exact}))
            raise NoSuchThing(f"{len(exact)} documents with the number {number}; name one with --bridge: {bridges}.")
        raise NoSuchThing(f"No document with the number {number}." + (f" Close: {close}." if close else ""))
    return workspace.crossing(exact[0].id)


@documents.command("read-again")
@click.option("--from", "first", type=click.DateTime(["%Y-%m-%d"]), required=True, help="First day, as dated there.")
@click.option("--to", "last", type=click.DateTime(["%Y-%m-%d"]), required=True, help="Last day, as dated there.")
@click.option("--bridge", default="", help="Only what went over this bridge.")
@click.option("--wait", is_flag=True, help="Wait until all of them were read.")
@pass_service
@failing_well
def read_again(service: Service, first: datetime, last: datetime, bridge: str, wait: bool) -> None:
    """Read what was posted with a date of some days again in the books, now.

    It is read again by itself as well: each day for a week, then each week until the month after its own is over. What
    somebody changed, voided, deleted or doubled there differs from then on, and nothing is ever changed for it.

    \b
    Example:
      inkwell documents read-again --from 2026-10-01 --to 2026-10-31 --wait
    """
    workspace = service.workspace()
    due = workspace.read_again(first=first.date(), last=last.date(), bridge=bridge)
    click.echo(f"{due} {'document is' if due == 1 else 'documents are'} read again.")
    while wait and (left := workspace.still_to_read()):
        click.echo(f"{left} still to be read.", err=True)
        time.sleep(_LOOK_EVERY_SECONDS)
    if wait:
        differing = sum(1 for _ in workspace.crossings(state="differs"))
        click.echo(f"{differing} differ from what was planned: inkwell documents list --state differs" if differing
                   else "None differs from what was planned.")  # fmt: skip


documents.add_command(export)
