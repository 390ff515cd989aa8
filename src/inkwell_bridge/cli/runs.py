"""``inkwell run`` and ``inkwell runs``."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import datetime
from itertools import islice

import click
from rich.progress import BarColumn, MofNCompleteColumn, TextColumn, TimeElapsedColumn

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import INTERRUPTED, NEEDS_A_PERSON
from inkwell_bridge.client import Conflict, WorkspaceCalls
from inkwell_bridge.client.models import Run, SidesTotals, Totals

LOOK_AGAIN_SECONDS = 0.4
OUTCOMES = ("carried", "adopted", "held", "differs", "left_out", "waiting", "unchanged", "pending")

COLUMNS: list[output.Column] = [
    ("Run>", lambda row: row.id),
    ("Bridge", lambda row: row.bridge),
    ("State", lambda row: row.state),
    ("Started", lambda row: row.started_at),
    ("By", lambda row: row.started_by or "timetable"),
    ("Read>", lambda row: row.counts.read),
    ("Carried>", lambda row: row.counts.carried),
    ("Held>", lambda row: row.counts.held + row.counts.differs),
    ("Left out>", lambda row: row.counts.left_out),
    ("Adopted>", lambda row: row.counts.adopted),
    ("Waiting>", lambda row: row.counts.waiting + row.counts.pending),
    ("Unchanged>", lambda row: row.counts.unchanged),
]


@click.command()
@click.argument("bridge")
@click.option("--order", "orders", multiple=True, help="Only this order, by its number; can be repeated.")
@click.option("--lane", "lanes", multiple=True, help="Only this lane of those that are on; can be repeated.")
@click.option("--from", "first", type=click.DateTime(["%Y-%m-%d"]), help="Only what is dated on this day or later.")
@click.option("--to", "last", type=click.DateTime(["%Y-%m-%d"]), help="Only what is dated on this day or before.")
@click.option("--no-wait", is_flag=True, help="Start it and go.")
@json_option
@pass_service
@failing_well
def run(
    service: Service,
    bridge: str,
    orders: tuple[str, ...],
    lanes: tuple[str, ...],
    first: datetime | None,
    last: datetime | None,
    no_wait: bool,
    as_json: bool,
) -> None:
    """Read what is new and carry it, with progress; or only some lanes or days, or the orders named, whatever lanes
    are on.

    A lane that was never read begins at --from; stopped, it goes on from there with the next run.

    Ends with status 1 where the run failed or something is held for a person.

    \b
    Examples:
      inkwell run web-shop-to-uk-books
      inkwell run web-shop-to-uk-books --order MW-10006
      inkwell run web-shop-to-uk-books --from 2026-10-01 --to 2026-10-07
    """
    workspace = service.workspace()
    days = {"first_day": first and first.date(), "last_day": last and last.date()}
    found = _started(workspace, lambda: workspace.bridge(bridge).run(*orders, lanes=lanes, **days))
    _show_once_done(workspace, found, no_wait=no_wait, as_json=as_json)


def _show_once_done(workspace: WorkspaceCalls, found: Run, *, no_wait: bool, as_json: bool) -> None:
    if not no_wait:
        found = follow(workspace, found, quiet=as_json)
    if as_json:
        output.as_json(found)
    else:
        show(found)
    if found.state == "failed" or found.counts.held or found.counts.differs:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _started(workspace: WorkspaceCalls, start: Callable[[], Run]) -> Run:
    """The run that was started, or the one that is under way."""
    try:
        return start()
    except Conflict as conflict:
        running = (conflict.problem.model_extra or {}).get("run")
        if running is None:
            raise
        output.say(f"{conflict.problem.detail} Following that one.")
        return workspace.run(running)


def follow(workspace: WorkspaceCalls, started: Run, *, quiet: bool = False) -> Run:
    """Wait until a run ends, with a bar on a terminal. Ctrl-C ends the waiting, not the run."""
    try:
        return _until_it_ends(workspace, started, quiet=quiet)
    except KeyboardInterrupt:
        output.say(f"Run {started.id} goes on. Follow it with: inkwell runs show {started.id}")
        output.say(f"Stop it with: inkwell runs stop {started.id}")
        raise click.exceptions.Exit(INTERRUPTED) from None


def _until_it_ends(workspace: WorkspaceCalls, started: Run, *, quiet: bool) -> Run:
    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeElapsedColumn())
    with output.progress(*columns, quiet=quiet) as progress:
        bar = progress.add_task("Reading", total=None)
        found, told = started, ""
        while found.under_way:
            time.sleep(LOOK_AGAIN_SECONDS)
            found = workspace.run(found.id)
            waits = found.waits.in_words() if found.waits else ""
            # Once for each try, also where there is no bar to look at.
            if waits and waits != told:
                output.say(waits)
            told = waits
            counts = found.counts
            progress.update(
                bar,
                description=found.state.capitalize(),
                total=counts.read or None,
                completed=counts.read - counts.pending,
            )
    return workspace.run(found.id)


def show(found: Run) -> None:
    """A run's counts and totals."""
    trouble = "" if found.waits or not found.trouble else f". {found.trouble}"
    click.echo(f"Run {found.id} of {found.bridge}: {found.state}{trouble}")
    if found.waits:
        click.echo(found.waits.in_words())
    counts = [
        f"{getattr(found.counts, name)} {name.replace('_', ' ')}" for name in OUTCOMES if getattr(found.counts, name)
    ]
    click.echo(f"{found.counts.read} read" + (f": {', '.join(counts)}" if counts else ""))
    for sides in found.totals:
        named = (("  tax on lines", "tax_lines"), ("  rounding", "rounding"))
        totals(sides, tuple((label, name) for label, name in named if _says_anything(getattr(sides, name))))


def _says_anything(sums: Totals) -> bool:
    return bool(sums.net or sums.tax or sums.gross)


def totals(sides: SidesTotals, extra: tuple[tuple[str, str], ...] = ()) -> None:
    """Both sides and the difference, in one currency."""
    rows = [
        ("Source", sides.source),
        ("Books", sides.books),
        *([("Withheld", sides.withheld)] if sides.withheld.gross else []),
        *([("Vouchers", sides.vouchers)] if sides.vouchers.gross else []),
        *([("Cancelled", sides.cancelled)] if sides.cancelled.gross else []),
        *([("Converted", sides.converted)] if sides.converted.gross else []),
        *([("Untaxed deposits", sides.deposits)] if sides.deposits.tax else []),
        ("Difference", sides.difference),
        *((label, getattr(sides, name)) for label, name in extra),
    ]
    columns: list[output.Column] = [
        (sides.currency or "No currency", lambda row: row[0]),
        ("Documents>", lambda row: row[1].count),
        ("Net>", lambda row: row[1].net),
        ("Tax>", lambda row: row[1].tax),
        ("Gross>", lambda row: row[1].gross),
    ]
    output.table(rows, columns, empty="")


@click.group()
def runs() -> None:
    """Past runs and the one under way."""


@runs.command("list")
@click.option("--bridge", help="Only of this bridge.")
@click.option("--limit", default=20, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, bridge: str | None, limit: int, as_json: bool) -> None:
    """List runs, newest first.

    \b
    Example:
      inkwell runs list --limit 5
    """
    rows = list(islice(service.workspace().runs(bridge=bridge), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="Nothing ran yet. Start with: inkwell run BRIDGE")


@runs.command("show")
@click.argument("number", type=int)
@json_option
@pass_service
@failing_well
def show_command(service: Service, number: int, as_json: bool) -> None:
    """Show one run with its totals.

    \b
    Example:
      inkwell runs show 1
    """
    found = service.workspace().run(number)
    if as_json:
        output.as_json(found)
    else:
        show(found)


@runs.command("stop")
@click.argument("number", type=int)
@json_option
@pass_service
@failing_well
def stop(service: Service, number: int, as_json: bool) -> None:
    """End a run that does not come to an end, so that its bridge can start another.

    What it has read is carried all the same.

    \b
    Example:
      inkwell runs stop 7
    """
    found = service.workspace().stop_run(number)
    if as_json:
        output.as_json(found)
    else:
        output.say(f"Run {found.id} of {found.bridge} is stopped; what it read is carried all the same.")
        lanes = "".join(f" --lane {name}" for name in found.lanes)
        output.say(f"It goes on from there with: inkwell run {found.bridge}{lanes}")


@runs.command("again")
@click.argument("number", type=int)
@click.option(
    "--outcome", "outcomes", multiple=True,
    type=click.Choice(["held", "differs", "left out", "waiting", "carried", "adopted"]),
    help="Only what came to this in it; can be repeated. Without it, what is held or differs.",
)  # fmt: skip
@click.option("--no-wait", is_flag=True, help="Start it and go.")
@json_option
@pass_service
@failing_well
def again(service: Service, number: int, outcomes: tuple[str, ...], no_wait: bool, as_json: bool) -> None:
    """Try some or all of a run again: it is read anew, and what is held of it is let go.

    What stands in the books is not posted again.

    \b
    Examples:
      inkwell runs again 7
      inkwell runs again 7 --outcome "left out"
    """
    workspace = service.workspace()
    found = _started(workspace, lambda: workspace.run_again(number, *outcomes))
    _show_once_done(workspace, found, no_wait=no_wait, as_json=as_json)
