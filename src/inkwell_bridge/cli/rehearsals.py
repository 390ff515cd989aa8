"""``inkwell rulebooks rehearse`` and ``coverage``: past documents under other rules, and what the rules cover."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any, TypeVar

import click
from rich.progress import BarColumn, MofNCompleteColumn, TextColumn, TimeElapsedColumn

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import INTERRUPTED, NEEDS_A_PERSON
from inkwell_bridge.cli.files import write_chunks
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.errors import Conflict
from inkwell_bridge.client.models import (
    AskedWork,
    ChangedPlan,
    FindingCount,
    MetValue,
    OutcomeCount,
    PlanChange,
    Rehearsal,
    TotalChange,
)

LOOK_AGAIN_SECONDS = 0.5
_DAY = click.DateTime(formats=["%Y-%m-%d"])


def period(command: Any) -> Any:
    command = click.option("--last", type=_DAY, help="The last day.")(command)
    return click.option("--first", type=_DAY, help="The first day; without days, the last whole month.")(command)


def days(first: datetime | None, last: datetime | None) -> dict[str, date | None]:
    """The days that were given, as a call takes them."""
    return {"first": first.date() if first else None, "last": last.date() if last else None}


@click.command("rehearse")
@click.argument("bridge")
@click.option("--rulebook", type=int, help="The version to rehearse; without it, the newest.")
@click.option("--since", type=int, help="The version to compare with; without it, the one in force.")
@period
@click.option("--most", type=click.IntRange(0, 10_000), default=20, show_default=True, help="Name so many documents.")
@json_option
@pass_service
@failing_well
def rehearse(
    service: Service, bridge: str, rulebook: int | None, since: int | None, first: datetime | None,
    last: datetime | None, most: int, as_json: bool,
) -> None:  # fmt: skip
    """Plan past documents under a version of the rules, beside another; nothing is sent.

    Ends with status 1 where any document would become something else.

    \b
    Examples:
      inkwell rulebooks rehearse web-shop-to-uk-books
      inkwell rulebooks rehearse web-shop-to-uk-books --first 2026-10-01 --last 2026-10-31
    """
    workspace = service.workspace()
    asked = _asked(workspace, bridge, rulebook=rulebook, since=since, first=first, last=last)
    found = _ended(workspace, asked, quiet=as_json)
    changed = _first_of(workspace, found, most)
    if as_json:
        documents = [one.model_dump(mode="json") for one in changed]
        output.as_json({**found.model_dump(mode="json"), "changed_documents": documents})
    else:
        _show(found, changed)
    if found.state != "ended" or found.changed:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@click.command("export")
@click.argument("bridge")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@period
@pass_service
@failing_well
def export(service: Service, bridge: str, file: Path, first: datetime | None, last: datetime | None) -> None:
    """Write past orders and refunds to a file (JSON Lines), without the people in them.

    What the file is for: `inkwell rulebook rehearse` and `rulebook coverage`, which ask no service.

    \b
    Example:
      inkwell documents export web-shop-to-uk-books october.jsonl --first 2026-10-01 --last 2026-10-31
    """
    chunks = service.workspace().bridge(bridge).source_documents(**days(first, last))
    count = write_chunks(iter(chunks), file)
    output.say(f"{count} {'document' if count == 1 else 'documents'} written to {file}.")


@click.command("coverage")
@click.argument("bridge")
@click.option("--rulebook", type=int, help="The version of the rules; without it, the newest.")
@period
@click.option("--unmapped", is_flag=True, help="Only what no rule maps.")
@click.option("--csv", "file", type=click.Path(dir_okay=False, path_type=Path), help="Write all of it to a file.")
@json_option
@pass_service
@failing_well
def coverage(
    service: Service, bridge: str, rulebook: int | None, first: datetime | None, last: datetime | None,
    unmapped: bool, file: Path | None, as_json: bool,
) -> None:  # fmt: skip
    """List every value that past orders hold, and the rule that maps it, or that none does.

    Ends with status 1 where something is mapped by no rule.

    \b
    Examples:
      inkwell rulebooks coverage web-shop-to-uk-books --first 2026-10-01 --last 2026-10-31
      inkwell rulebooks coverage web-shop-to-uk-books --unmapped
    """
    workspace = service.workspace()
    asked = _asked(workspace, bridge, rulebook=rulebook, compare=False, first=first, last=last)
    found = _ended(workspace, asked, quiet=as_json)
    values = workspace.coverage(found.id)
    lacking = [one for one in values if one.standing == "unmapped"]
    if file is not None:
        file.write_bytes(workspace.coverage_table(found.id))
        output.say(f"Written to {file}.")
    if as_json:
        output.as_json(lacking if unmapped else values)
    else:
        _show_values(found, lacking if unmapped else values, len(lacking))
        if not unmapped:
            _show_orders(found)
    if found.state != "ended" or lacking:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _asked(workspace: WorkspaceCalls, bridge: str, *, first: datetime | None, last: datetime | None,
           **options: Any) -> Rehearsal:  # fmt: skip
    try:
        return workspace.bridge(bridge).rehearse(**(options | days(first, last)))
    except Conflict as conflict:
        running = (conflict.problem.model_extra or {}).get("rehearsal")
        if running is not None:
            conflict.problem.hint = f"Wait for it, or stop it in the console: rehearsal {running}."
        raise


def _ended(workspace: WorkspaceCalls, asked: Rehearsal, *, quiet: bool) -> Rehearsal:
    """Wait until it has ended, with a bar on a terminal."""
    return followed(asked, workspace.rehearsal, workspace.cancel_rehearsal, "Rehearsal", "Rehearsing", quiet=quiet)


Work = TypeVar("Work", bound=AskedWork)


def followed(
    asked: Work, read: Callable[[int], Work], cancel: Callable[[int], Work], what: str, doing: str, *, quiet: bool
) -> Work:
    """Wait until work has ended, with a bar on a terminal. Ctrl-C cancels it: nobody else waits for it."""
    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeElapsedColumn())
    found = asked
    try:
        with output.progress(*columns, quiet=quiet) as progress:
            bar = progress.add_task(doing, total=None)
            while found.under_way:
                time.sleep(LOOK_AGAIN_SECONDS)
                found = read(found.id)
                progress.update(bar, total=found.total, completed=found.done)
    except KeyboardInterrupt:
        cancel(found.id)
        output.say(f"{what} {found.id} was cancelled. Nothing had been sent, and nothing changed.")
        raise click.exceptions.Exit(INTERRUPTED) from None
    if found.trouble:
        output.say(f"{what} {found.id} {found.state}: {found.trouble}")
    return found


def _first_of(workspace: WorkspaceCalls, found: Rehearsal, most: int) -> list[ChangedPlan]:
    changed: list[ChangedPlan] = []
    for one in workspace.changed_plans(found.id):
        if len(changed) >= most:
            break
        changed.append(one)
    return changed


def _show(found: Rehearsal, changed: list[ChangedPlan]) -> None:
    since = f" beside version {found.since}" if found.since else ""
    click.echo(
        f"Version {found.rulebook} of the rules of {found.bridge}{since}, on {found.done} documents of "
        f"{found.first} to {found.last}: {found.changed or 'none'} would change."
    )
    show_result(found.outcomes, found.findings, found.totals)
    show_changed(changed, found.changed)


def show_result(
    outcomes: Sequence[OutcomeCount], findings: Sequence[FindingCount], totals: Sequence[TotalChange]
) -> None:
    """What a rehearsal came to: documents that end otherwise, findings that come and go, totals that differ."""
    for one in outcomes:
        if one.before != one.after:
            click.echo(f"  {one.count} would be {_ending(one.after)} and are {_ending(one.before)} now")
    for finding in findings:
        click.echo(f"  {finding.id}: {_come_and_go(finding.came, finding.went)}. {finding.text}")
    differing = [one for one in totals if _differs(one)]
    if differing:
        click.echo()
        output.table(differing, _TOTALS, empty="")


def show_changed(changed: Sequence[ChangedPlan], number: int) -> None:
    """The first documents whose plans change, of so many."""
    if not changed:
        return
    click.echo()
    output.table(list(changed), _CHANGED, empty="")
    if number > len(changed):
        output.say(f"{number - len(changed)} more; see more with --most.")


def _ending(outcome: str) -> str:
    return {"carry": "carried", "hold": "held"}.get(outcome, outcome)


def _come_and_go(came: int, went: int) -> str:
    parts = [f"comes on {came}" if came else "", f"goes on {went}" if went else ""]
    return ", ".join(filter(None, parts))


def _differs(one: TotalChange) -> bool:
    return (one.before, one.tax_before) != (one.after, one.tax_after)


_TOTALS: list[output.Column] = [
    ("Of", lambda one: one.of.capitalize()),
    ("Code", lambda one: one.code),
    ("Currency", lambda one: one.currency),
    ("Before>", lambda one: one.before),
    ("After>", lambda one: one.after),
    ("Difference>", lambda one: one.after - one.before),
    ("Tax difference>", lambda one: (one.tax_after - one.tax_before) or ""),
]
_CHANGED: list[output.Column] = [
    ("Number", lambda one: one.number),
    ("Before", lambda one: one.before),
    ("After", lambda one: one.after),
    ("What changes", lambda one: _said(one)),
]


_CONDITIONS: list[output.Column] = [
    ("Condition", lambda one: one.expression),
    ("Orders>", lambda one: one.orders),
    ("Came to nothing>", lambda one: one.unclear or ""),
]
_ODD: list[output.Column] = [
    ("Order", lambda one: one.number),
    ("Orders>", lambda one: one.orders),
    ("For", lambda one: one.why),
]


def _said(one: ChangedPlan) -> str:
    """Why it would not be carried any more; else the first of its changes."""
    if one.why:
        return one.why
    kinds = list(dict.fromkeys(_change(change) for change in one.changes if change.at != "/outcome"))
    more = f", and {len(kinds) - 3} more" if len(kinds) > 3 else ""
    return "; ".join(kinds[:3]) + more


def _change(change: PlanChange) -> str:
    name = change.at.rpartition("/")[2].replace("_", " ")
    # A whole document or line says itself what it is.
    whole = (change.at.count("/") == 2 and change.at.startswith("/documents/")) or name.isdecimal()
    if change.after is None and change.before is not None:
        return f"no {change.before}" if whole else f"no {name} ({change.before})"
    if change.before is None and change.after is not None:
        return f"now {change.after}" if whole else f"{name} {change.after}"
    return f"{name} {change.before} to {change.after}" if change.before else f"another {name}"


def _show_values(found: Rehearsal, values: list[MetValue], lacking: int) -> None:
    show_values(values, empty="Nothing that no rule maps." if found.done else "No orders in this period.")
    click.echo()
    click.echo(f"{found.done} documents of {found.first} to {found.last} under version {found.rulebook}; "
               f"{mapped_by_none(lacking)}")  # fmt: skip
    for aspect, count in found.further.items():
        click.echo(f"{count} more times another {aspect} was met; only the first 2,000 of them are listed.")


def _show_orders(found: Rehearsal) -> None:
    """How many orders each condition is true of, and a few that stand for all."""
    if found.conditions:
        click.echo("\nConditions, and the orders that each is true of:")
        output.table(found.conditions, _CONDITIONS, empty="")
    if found.odd_ones:
        click.echo("\nOne order of each kind that the rules treat differently, the rarest first:")
        output.table(found.odd_ones, _ODD, empty="")


def mapped_by_none(lacking: int) -> str:
    """How many values no rule maps, in words."""
    return f"{lacking or 'no'} {'value is' if lacking == 1 else 'values are'} mapped by no rule."


def show_values(values: Sequence[MetValue], *, empty: str) -> None:
    """What orders hold, and by which rule each is mapped."""
    columns: list[output.Column] = [
        ("What", lambda one: one.aspect.capitalize()),
        ("Value", lambda one: one.value),
        ("Orders>", lambda one: one.orders),
        ("Amount>", lambda one: ", ".join(f"{amount} {currency}" for currency, amount in one.amounts.items())),
        ("By", _mapped_by),
    ]
    output.table(list(values), columns, empty=empty)


def _mapped_by(one: MetValue) -> str:
    if one.standing == "unmapped":
        proposed = one.suggestion
        hint = f" Perhaps {proposed.at}: {proposed.value} ({proposed.why})" if proposed else ""
        return f"no rule ({one.unmapped} {'order' if one.unmapped == 1 else 'orders'}).{hint}"
    if one.rules:
        return ", ".join(f"{use.rule} = {use.gave}" if use.gave else use.rule for use in one.rules[:3])
    return {"left out": "left out", "not asked for": "no rule asks for it"}.get(one.standing, one.standing)
