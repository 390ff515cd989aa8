"""``inkwell rulebooks propose``: rules learnt from past orders and what somebody entered into the books for them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.files import write_chunks
from inkwell_bridge.cli.rehearsals import days, followed, period
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.errors import Conflict
from inkwell_bridge.client.models import ExampleDiffers, LearntRule, Proposal

_NEW_FILE = click.Path(dir_okay=False, path_type=Path)
least_option = click.option(
    "--least", type=click.IntRange(1, 100), default=2, show_default=True,
    help="So many examples a rule beside the usual one must have.",
)  # fmt: skip
write_option = click.option("--write", "file", type=_NEW_FILE, help="Write the rules to a file (YAML).")
most_option = click.option(
    "--most", type=click.IntRange(0, 1_000), default=20, show_default=True, help="Name so many orders."
)


@click.command("propose")
@click.argument("bridge")
@period
@least_option
@write_option
@click.option("--draft", is_flag=True, help="Keep the rules as a new draft of the bridge.")
@click.option("--examples", type=_NEW_FILE, help="Write what was learnt from to a file (JSON Lines), without people.")
@most_option
@json_option
@pass_service
@failing_well
def propose(
    service: Service, bridge: str, first: datetime | None, last: datetime | None, least: int, file: Path | None,
    draft: bool, examples: Path | None, most: int, as_json: bool,
) -> None:  # fmt: skip
    """Learn rules from past orders and what the books hold for them, whoever entered it; both ends are only read.

    Of several rules that explain as much the fewest are taken. Ends with status 1 where orders stay unexplained.

    \b
    Examples:
      inkwell rulebooks propose web-shop-to-uk-books --first 2026-10-01 --last 2026-10-31
      inkwell rulebooks propose web-shop-to-uk-books --draft --examples october.jsonl
    """
    workspace = service.workspace()
    found = _ended(workspace, _asked(workspace, bridge, first, last, least), quiet=as_json)
    if found.state == "ended":
        if file is not None:
            write_rules(found.text, file)
        if draft:
            note = f"Learnt from {found.examples} orders of {found.first} to {found.last}."
            version = workspace.bridge(bridge).write_rulebook(found.text, note=note)
            output.say(f"Version {version.number} is kept as a draft. See what it does: inkwell rulebooks rehearse")
        if examples is not None:
            write_chunks(iter(workspace.examples(found.id)), examples)
            output.say(f"What was learnt from is written to {examples}.")
    if as_json:
        output.as_json(found)
    elif found.state == "ended":
        show(found.rules, found.exceptions[:most], found.examples or 0, found.explained or 0)
        if found.unread:
            click.echo(f"{found.unread} documents of the books could not be understood, and taught nothing.")
    if found.state != "ended" or found.unexplained:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _asked(
    workspace: WorkspaceCalls, bridge: str, first: datetime | None, last: datetime | None, least: int
) -> Proposal:
    try:
        return workspace.bridge(bridge).propose(**days(first, last), least=least)
    except Conflict as conflict:
        running = (conflict.problem.model_extra or {}).get("proposal")
        if running is not None:
            conflict.problem.hint = f"Wait for it, or cancel it in the console: proposal {running}."
        raise


def _ended(workspace: WorkspaceCalls, asked: Proposal, *, quiet: bool) -> Proposal:
    return followed(asked, workspace.proposal, workspace.cancel_proposal, "Proposal", "Learning", quiet=quiet)


def write_rules(text: str, file: Path) -> None:
    """Write proposed rules to a file."""
    file.write_text(text, "utf-8")
    output.say(f"The rules are written to {file}.")


def show(rules: Sequence[LearntRule], named: Sequence[ExampleDiffers], examples: int, explained: int) -> None:
    """The rules with what speaks for each, and the orders that they do not explain."""
    output.table([one for one in rules if one.value], _RULES, empty="No rule could be learnt.")
    still_open = [one for one in rules if not one.value]
    if still_open:
        click.echo("\nOpen, for want of examples: " + ", ".join(one.at.removeprefix("/") for one in still_open))
    if named:
        click.echo("\nNot explained:")
        output.table(list(named), _NAMED, empty="")
    click.echo(f"\nThe rules explain {explained} of {examples} orders.")
    if examples - explained > len(named):
        output.say(f"{examples - explained - len(named)} more are not explained; see more with --most.")


_RULES: list[output.Column] = [
    ("Rule", lambda one: one.at),
    ("Value", lambda one: one.value),
    ("For>", lambda one: "" if one.supported is None else one.supported),
    ("Against>", lambda one: one.contradicted or ""),
    ("Why", lambda one: one.note),
]
_NAMED: list[output.Column] = [
    ("Order", lambda one: one.number),
    ("In the books", lambda one: one.books_number),
    ("What differs", lambda one: "; ".join(one.differs[:3])),
]
