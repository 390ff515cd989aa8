"""``inkwell links``: which product is which item, which customer is which contact."""

from __future__ import annotations

import time
from decimal import Decimal, InvalidOperation
from itertools import islice
from pathlib import Path

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client import LinkCalls
from inkwell_bridge.client.models import ImportPreview, LinkChange, Offered, Question

LOOK_AGAIN_SECONDS, LONGEST_WAIT_SECONDS = 0.4, 60.0
kind_argument = click.argument("kind", type=click.Choice(["products", "customers"]))


@click.group()
def links() -> None:
    """Which product is which item, which customer is which contact."""


def _calls(service: Service, bridge: str, kind: str) -> LinkCalls:
    return service.workspace().bridge(bridge).links(kind)


@links.command("list")
@click.argument("bridge")
@kind_argument
@click.option("--state", type=click.Choice(["linked", "none", "open"]))
@click.option("--search", default="", help="Part of a code or name.")
@click.option("--limit", type=click.IntRange(1, 100_000), default=200, show_default=True)
@json_option
@pass_service
@failing_well
def list_(service: Service, bridge: str, kind: str, state: str | None, search: str, limit: int, as_json: bool) -> None:
    """List what the sales side has, with where it leads.

    \b
    Example:
      inkwell links list web-shop-to-uk-books products --state open
    """
    rows = list(islice(_calls(service, bridge, kind).all(state=state, q=search), limit))
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Code", lambda row: row.code),
        ("Name", lambda row: row.name),
        ("State", lambda row: row.state),
        ("Leads to", lambda row: ", ".join(_told(part.code or part.id, part.quantity) for part in row.links)),
        ("By", lambda row: ", ".join(dict.fromkeys(part.rule for part in row.links))),
    ]
    output.table(rows, columns, empty="Nothing here. Load the names of both ends with: inkwell names load")


def _told(code: str, quantity: Decimal) -> str:
    return code if quantity == 1 else f"{quantity.normalize():f} × {code}"


@links.command("counts")
@click.argument("bridge")
@kind_argument
@json_option
@pass_service
@failing_well
def counts(service: Service, bridge: str, kind: str, as_json: bool) -> None:
    """Say how far the linking is; ends with status 1 while something is open.

    \b
    Example:
      inkwell links counts web-shop-to-uk-books products
    """
    found = _calls(service, bridge, kind).counts()
    if as_json:
        output.as_json(found)
    else:
        click.echo(f"{found.linked:,} linked, {found.none:,} without a counterpart, {found.open:,} open")
    if found.open:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@links.command("questions")
@click.argument("bridge")
@kind_argument
@click.option("--limit", type=click.IntRange(1, 50), default=10, show_default=True)
@json_option
@pass_service
@failing_well
def questions(service: Service, bridge: str, kind: str, limit: int, as_json: bool) -> None:
    """Show what a person must say, each with what it may be, the likeliest first.

    \b
    Example:
      inkwell links questions web-shop-to-uk-books products
    """
    calls = _calls(service, bridge, kind)
    # Asked in between, it would ask for what the rules are just about to link.
    until = time.monotonic() + LONGEST_WAIT_SECONDS
    while calls.counts().matching and time.monotonic() < until:
        time.sleep(LOOK_AGAIN_SECONDS)
    found = calls.questions(limit=limit)
    if as_json:
        output.as_json(found)
        return
    if not found:
        click.echo("Every question is answered.")
    for question in found:
        _show(question)
    left = calls.counts().open - len(found)
    if left > 0:
        output.say(f"{left:,} more. See the next with a higher --limit, or answer these first.")


def _show(question: Question) -> None:
    entry = question.entry
    click.echo(f"{entry.code or entry.source_id}  {entry.name}".rstrip())
    if not question.suggestions:
        click.echo("     nothing in the books is like it")
    for place, one in enumerate(question.suggestions, start=1):
        parts = ", ".join(f"{_told(part.code or part.id, part.quantity)} {part.name}" for part in one.targets)
        ids = " ".join(f"--to {_named(part)}" for part in one.targets)
        click.echo(f"  {place}. {one.points:>3}  {parts}  [{ids}]")
        click.echo(f"          {one.reason}")


def _named(part: Offered) -> str:
    return (part.code or part.id) + (f":{part.quantity.normalize():f}" if part.quantity != 1 else "")


@links.command("answer")
@click.argument("bridge")
@kind_argument
@click.argument("key")
@click.option(
    "--to", "targets", multiple=True, metavar="CODE[:QUANTITY]", help="The books' code or id; repeat it for a kit."
)
@click.option("--none", "none", is_flag=True, help="There is no counterpart.")
@click.option("--create", "create", is_flag=True, help="Make it in the books.")
@json_option
@pass_service
@failing_well
def answer(
    service: Service,
    bridge: str,
    kind: str,
    key: str,
    targets: tuple[str, ...],
    none: bool,
    create: bool,
    as_json: bool,
) -> None:
    """Say what one of the sales side is in the books. KEY is its code, or its id at the shop.

    \b
    Examples:
      inkwell links answer web-shop-to-uk-books products BWL-YARN-ASH --to BOWL-ASH
      inkwell links answer web-shop-to-uk-books products NDL-BOX --to NDL-BAM-40:6
      inkwell links answer web-shop-to-uk-books products GIFT-WRAP --none
      inkwell links answer web-shop-to-uk-books products NDL-CASE --create
    """
    if sum((bool(targets), none, create)) != 1:
        raise click.UsageError("Give one of --to, --none and --create.")
    calls = _calls(service, bridge, kind)
    _changed(calls.create(key) if create else calls.answer(key, *(_target(text) for text in targets)), as_json)


def _target(text: str) -> tuple[str, Decimal]:
    identity, colon, quantity = text.partition(":")
    try:
        return identity, Decimal(quantity) if colon else Decimal(1)
    except InvalidOperation as error:
        wanted = "a code, or a code and a quantity such as NDL-BAM-40:6"
        raise click.UsageError(f"--to: expected {wanted}, got {text!r}.") from error


@links.command("undo")
@click.argument("bridge")
@kind_argument
@click.option("--change", type=int, help="Which; without it, the newest of your own.")
@json_option
@pass_service
@failing_well
def undo(service: Service, bridge: str, kind: str, change: int | None, as_json: bool) -> None:
    """Take an answer or an import back.

    \b
    Example:
      inkwell links undo web-shop-to-uk-books products
    """
    _changed(_calls(service, bridge, kind).undo(change), as_json)


def _changed(change: LinkChange, as_json: bool) -> None:
    if as_json:
        output.as_json(change)
    else:
        output.say(f"Change {change.id}: {change.what}.")


@links.command("changes")
@click.argument("bridge")
@kind_argument
@click.option("--limit", default=20, show_default=True, help="How many at most; 0 for all.")
@json_option
@pass_service
@failing_well
def changes(service: Service, bridge: str, kind: str, limit: int, as_json: bool) -> None:
    """List what was answered, imported, linked by rule and taken back, newest first.

    \b
    Example:
      inkwell links changes web-shop-to-uk-books products
    """
    rows = list(islice(_calls(service, bridge, kind).changes(), limit or None))
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Change>", lambda row: row.id),
        ("At", lambda row: row.at),
        ("What", lambda row: f"{row.what}{', taken back' if row.undone else ''}"),
        ("By", lambda row: row.person),
        ("", lambda row: row.text),
    ]
    output.table(rows, columns, empty="Nothing was linked yet. Begin with: inkwell links match")


@links.command("match")
@click.argument("bridge")
@kind_argument
@json_option
@pass_service
@failing_well
def match(service: Service, bridge: str, kind: str, as_json: bool) -> None:
    """Let the rules link what is certain, in the background.

    \b
    Example:
      inkwell links match web-shop-to-uk-books customers
    """
    found = _calls(service, bridge, kind).match()
    if as_json:
        output.as_json(found)
    else:
        output.say("The rules are looking. See how far they are with: inkwell links counts")


@links.command("export")
@click.argument("bridge")
@kind_argument
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@pass_service
@failing_well
def export(service: Service, bridge: str, kind: str, file: Path) -> None:
    """Write the table to a file: .csv or .xlsx.

    \b
    Example:
      inkwell links export web-shop-to-uk-books products links.xlsx
    """
    form = file.suffix.lower().lstrip(".")
    if form not in {"csv", "xlsx"}:
        raise click.UsageError(f"Name the file .csv or .xlsx; got {file.name}.")
    file.write_bytes(_calls(service, bridge, kind).table(form))
    output.say(f"Written to {file}.")


@links.command("import")
@click.argument("bridge")
@kind_argument
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--apply", is_flag=True, help="Put the good rows in place; without it, only look.")
@json_option
@pass_service
@failing_well
def import_(service: Service, bridge: str, kind: str, file: Path, apply: bool, as_json: bool) -> None:
    """Look what a table would change, and with --apply put it in place.

    Every bad row is named; ends with status 1 where there is one.

    \b
    Example:
      inkwell links import web-shop-to-uk-books products links.xlsx --apply
    """
    if file.stat().st_size == 0:
        raise NoSuchThing(f"{file} is empty.")
    found = _calls(service, bridge, kind).take_in(file.name, file.read_bytes(), apply=apply)
    if as_json:
        output.as_json(found)
    else:
        _preview(found)
    if found.bad:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _preview(found: ImportPreview) -> None:
    did = "Changed" if found.applied else "Would change"
    click.echo(f"{found.rows:,} rows. {did}: {found.added:,} new, {found.changed:,} other than before; "
               f"{found.unchanged:,} as they are, {found.unanswered:,} unanswered.")  # fmt: skip
    if found.bad:
        columns: list[output.Column] = [
            ("Row>", lambda row: row.row),
            ("Column", lambda row: row.column),
            ("What is wrong", lambda row: row.text),
        ]
        output.table(found.bad, columns, empty="")
        if found.bad_rows > len(found.bad):
            output.say(f"These are the first {len(found.bad)} of {found.bad_rows:,} rows that cannot be taken.")
    elif not found.applied:
        output.say("Put it in place with --apply.")
