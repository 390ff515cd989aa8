"""``inkwell names``: the reference data of both ends."""

from __future__ import annotations

import time
from itertools import islice

import click
from rich.progress import BarColumn, TaskID, TextColumn, TimeElapsedColumn

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client import ConnectionCalls
from inkwell_bridge.client.models import Loading

LOOK_AGAIN_SECONDS = 0.4
PARTS = ("lists", "items", "contacts", "products", "customers")


@click.group()
def names() -> None:
    """Reference data of both ends: accounts, tax codes, items, customers …"""


@names.command("load")
@click.argument("connection")
@click.option("--part", "parts", multiple=True, type=click.Choice(PARTS), help="Only this part; can be repeated.")
@click.option("--no-wait", is_flag=True, help="Ask for it and go.")
@json_option
@pass_service
@failing_well
def load(service: Service, connection: str, parts: tuple[str, ...], no_wait: bool, as_json: bool) -> None:
    """Load the reference data of an end again, with progress.

    Ends with status 1 where a part failed.

    \b
    Examples:
      inkwell names load uk-books
      inkwell names load web-shop --part products --part customers
    """
    calls = service.workspace().connection(connection)
    found = calls.load(*parts)
    if not no_wait:
        found = _follow(calls, found, quiet=as_json)
    if as_json:
        output.as_json(found)
    else:
        columns: list[output.Column] = [
            ("Part", lambda row: row.part),
            ("State", lambda row: row.state),
            ("Read>", lambda row: row.read),
            ("Added>", lambda row: row.added),
            ("Changed>", lambda row: row.changed),
            ("Gone>", lambda row: row.gone),
            ("Trouble", lambda row: row.trouble),
        ]
        output.table(found, columns, empty="This end has nothing to load.")
    if any(loading.state == "failed" for loading in found):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _follow(calls: ConnectionCalls, asked: list[Loading], *, quiet: bool) -> list[Loading]:
    """Wait until every part has ended, with a bar for each on a terminal."""
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.fields[told]}"), TimeElapsedColumn())
    with output.progress(*columns, quiet=quiet) as progress:
        bars: dict[int, TaskID] = {one.id: progress.add_task(one.part, total=None, told="") for one in asked}
        while True:
            newest = islice(calls.loadings(), 50)
            found = [one for one in newest if one.id in bars]
            for one in found:
                told = f"{one.read:,} of {one.expected:,}" if one.expected else f"{one.read:,}"
                progress.update(bars[one.id], total=one.expected, completed=one.read, told=told)
            if not any(one.under_way for one in found):
                return sorted(found, key=lambda one: one.id)
            time.sleep(LOOK_AGAIN_SECONDS)


@names.command("reference")
@click.argument("connection")
@pass_service
@failing_well
def reference(service: Service, connection: str) -> None:
    """Write an end's reference data as JSON, for: inkwell plan, inkwell rulebook check.

    \b
    Example:
      inkwell names reference uk-books > books.json
    """
    output.as_json(service.workspace().connection(connection).reference())


@names.command("kinds")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def kinds(service: Service, connection: str, as_json: bool) -> None:
    """List an end's lists, with what the last loading changed in each.

    \b
    Example:
      inkwell names kinds uk-books
    """
    rows = service.workspace().connection(connection).name_kinds()
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("List", lambda row: row.kind),
        ("Entries>", lambda row: row.count),
        ("Added>", lambda row: row.added),
        ("Changed>", lambda row: row.changed),
        ("Gone>", lambda row: row.gone),
    ]
    output.table(rows, columns, empty=f"Nothing loaded yet. Use: inkwell names load {connection}")


@names.command("list")
@click.argument("connection")
@click.argument("kind")
@click.option("--search", default="", help="Part of a code or name; every word must be there.")
@click.option("--change", type=click.Choice(["added", "changed", "gone"]), help="Only what the last loading did.")
@click.option("--limit", type=click.IntRange(1, 100_000), default=200, show_default=True)
@json_option
@pass_service
@failing_well
def list_(
    service: Service, connection: str, kind: str, search: str, change: str | None, limit: int, as_json: bool
) -> None:
    """List one kind of name.

    \b
    Examples:
      inkwell names list uk-books accounts --search sales
      inkwell names list uk-books accounts --change gone
    """
    # As it is written in a rulebook is as good: tax_codes, tax codes, tax-codes.
    spelt = kind.strip().lower().replace("_", "-").replace(" ", "-")
    found = service.workspace().connection(connection).names(spelt, q=search, change=change)
    rows = list(islice(found, limit))
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Code", lambda row: row.code),
        ("Name", lambda row: row.name),
        ("Details", lambda row: ", ".join(f"{name} {value}" for name, value in row.details.items())),
    ]
    output.table(rows, columns, empty="Nothing here is called so.")
