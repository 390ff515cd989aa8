"""``inkwell connections``."""

from __future__ import annotations

import sys

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client.models import Connection

COLUMNS: list[output.Column] = [
    ("Connection", lambda row: row.slug),
    ("Name", lambda row: row.name),
    ("Side", lambda row: row.side),
    ("Kind", lambda row: row.kind),
    ("State", lambda row: row.state),
    ("Checked", lambda row: row.checked_at),
]


@click.group()
def connections() -> None:
    """The ends: shops and books."""


@connections.command("list")
@json_option
@pass_service
@failing_well
def list_(service: Service, as_json: bool) -> None:
    """List all ends with their state.

    \b
    Example:
      inkwell connections list
    """
    rows = list(service.workspace().connections())
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="No connections yet. Make one with: inkwell connections add")


@connections.command("check")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def check(service: Service, connection: str, as_json: bool) -> None:
    """Ask an end who it is and what we may do there.

    \b
    Example:
      inkwell connections check web-shop
    """
    found = service.workspace().connection(connection).check()
    if as_json:
        output.as_json(found)
    else:
        _show(found)
    if found.state != "connected":
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@connections.command("add")
@click.argument("connection")
@click.option("--name", required=True, help="What people call it.")
@click.option("--kind", required=True, help="Its dialect; see: inkwell connections kinds")
@click.option("--address", required=True)
@click.option("--company", help="The company whose books these are.")
@click.option(
    "--credential",
    "credentials",
    multiple=True,
    metavar="NAME",
    help="Name of a credential; its value is read from standard input, one a line, in this order.",
)
@json_option
@pass_service
@failing_well
def add(
    service: Service,
    connection: str,
    name: str,
    kind: str,
    address: str,
    company: str | None,
    credentials: tuple[str, ...],
    as_json: bool,
) -> None:
    """Connect an end; it is checked at once.

    \b
    Example (the secrets come from a file, not from the command line):
      inkwell connections add web-shop --name "Web shop" --kind web-shop \\
        --address https://shop.example/api --credential key --credential secret < secrets.txt
    """
    stream = sys.stdin
    values = {each: stream.readline().rstrip("\n") for each in credentials}
    made = service.workspace().create_connection(
        slug=connection, name=name, kind=kind, address=address, company=company, credentials=values
    )
    if as_json:
        output.as_json(made)
    else:
        _show(made)


@connections.command("kinds")
@json_option
@pass_service
@failing_well
def kinds(service: Service, as_json: bool) -> None:
    """List the dialects that connections can speak.

    \b
    Example:
      inkwell connections kinds
    """
    rows = service.client().kinds()
    if as_json:
        output.as_json(rows)
    else:
        columns: list[output.Column] = [
            ("Kind", lambda row: row.name),
            ("Side", lambda row: row.side),
            ("What it is", lambda row: row.title),
            ("Credentials", lambda row: ", ".join(row.credentials_schema.get("properties", {}))),
        ]
        output.table(rows, columns, empty="No dialects are installed.")


def _show(connection: Connection) -> None:
    click.echo(f"{connection.name}: {connection.state}")
    if connection.mended:
        click.echo(f"  The address was mended: {', '.join(connection.mended)}.")
    if connection.described:
        said = connection.described
        click.echo(f"  {said.company}, {said.currency}, {said.time_zone}")
        for permission in said.permissions:
            mark = "yes" if permission.granted else "no "
            click.echo(f"  {mark}  {permission.name}" + (f": {permission.remedy}" if permission.remedy else ""))
    if connection.state_text:
        click.echo(f"  {connection.state_text}")
