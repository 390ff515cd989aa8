"""``inkwell connections``."""

from __future__ import annotations

import sys
import webbrowser
from datetime import UTC, datetime
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, confirmed, failing_well, json_option, pass_service, yes_option
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.oauth_listener import Listener
from inkwell_bridge.client.models import Connection

COLUMNS: list[output.Column] = [
    ("Connection", lambda row: row.slug),
    ("Name", lambda row: row.name),
    ("Side", lambda row: row.side),
    ("Kind", lambda row: row.kind),
    ("State", lambda row: f"{row.state}, paused" if row.paused_at else row.state),
    ("Checked", lambda row: row.checked_at),
    ("Last contact", lambda row: row.last_contact_at),
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
    _show(found, as_json)
    if found.state not in {"connected", "expiring"}:
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
    _show(made, as_json)


@connections.command("change")
@click.argument("connection")
@click.option("--name")
@click.option("--address")
@click.option("--company", help="The company whose end this is.")
@click.option(
    "--credential",
    "credentials",
    multiple=True,
    metavar="NAME",
    help="Name of a credential to enter again; its value is read from standard input. The others stay as they are.",
)
@click.option("--key-expires", type=click.DateTime(["%Y-%m-%d"]), help="The day on which the key ends.")
@click.option("--check-every", type=click.IntRange(0, 10_080), metavar="MINUTES", help="0: only when somebody asks.")
@click.option("--reload-every", type=click.IntRange(0, 8_760), metavar="HOURS", help="0: only when somebody asks.")
@json_option
@pass_service
@failing_well
def change(
    service: Service,
    connection: str,
    credentials: tuple[str, ...],
    key_expires: datetime | None,
    check_every: int | None,
    reload_every: int | None,
    as_json: bool,
    **plain: str | None,
) -> None:
    """Change an end; it is checked at once. What you do not name stays as it was.

    \b
    Example (a new secret, without a stop):
      inkwell connections change web-shop --credential secret < secret.txt
    """
    fields: dict[str, Any] = {name: value for name, value in plain.items() if value is not None}
    if credentials:
        fields["credentials"] = {each: sys.stdin.readline().rstrip("\n") for each in credentials}
    if key_expires:
        fields["key_expires_at"] = key_expires.replace(tzinfo=UTC).isoformat()
    fields |= {} if check_every is None else {"check_every_minutes": check_every}
    fields |= {} if reload_every is None else {"reload_every_hours": reload_every}
    if not fields:
        raise click.UsageError("Name what is to be changed.")
    changed = service.workspace().connection(connection).change(**fields)
    _show(changed, as_json)


@connections.command("sign-in")
@click.argument("connection")
@click.option("--no-browser", is_flag=True, help="Only print the address; open it yourself, on this machine.")
@json_option
@pass_service
@failing_well
def sign_in(service: Service, connection: str, no_browser: bool, as_json: bool) -> None:
    """Sign in at an end through its own consent page, in your browser on this machine.

    \b
    Example:
      inkwell connections sign-in lanternfair
    """
    calls = service.workspace().connection(connection)
    with Listener() as listener:
        begun = calls.begin_sign_in(return_to=listener.address)
        click.echo(f"Open this page and say what Inkwell Bridge may do there:\n  {begun.page}", err=True)
        if not no_browser:
            webbrowser.open(begun.page)
        came_back = listener.wait(begun.state, seconds=(begun.ends_at - datetime.now(UTC)).total_seconds())
    if came_back is None:
        raise click.ClickException("Nobody came back from the page in time. Begin again with the same command.")
    found = calls.finish_sign_in(state=begun.state, code=came_back.get("code", ""), error=came_back.get("error", ""))
    _show(found, as_json)


@connections.command("pause")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def pause(service: Service, connection: str, as_json: bool) -> None:
    """Let nothing be read from an end or sent to it, by any bridge, until it goes on.

    \b
    Example:
      inkwell connections pause uk-books
    """
    found = service.workspace().connection(connection).pause()
    if as_json:
        output.as_json(found)
        return
    output.say(f"{connection} is paused. Let it go on with: inkwell connections go-on {connection}")


@connections.command("go-on")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def go_on(service: Service, connection: str, as_json: bool) -> None:
    """Let a paused end go on: what its bridges missed is made up for once, and what waited goes at once.

    \b
    Example:
      inkwell connections go-on uk-books
    """
    found = service.workspace().connection(connection).go_on()
    if as_json:
        output.as_json(found)
        return
    output.say(f"{connection} goes on.")


@connections.command("switch")
@click.argument("connection")
@click.argument("company_name")
@click.option("--company", help="Which of the client's companies that is.")
@yes_option
@json_option
@pass_service
@failing_well
def switch(
    service: Service, connection: str, company_name: str, company: str | None, yes: bool, as_json: bool
) -> None:  # fmt: skip
    """Give an end to another company: type the company's name as the end says it.

    Its links end and are kept as history, and its lanes are switched off; it asks before, and says which. For a day,
    switch-back brings them back.

    \b
    Example:
      inkwell connections switch uk-books "Marrowby Ireland books" --company marrowby-ireland
    """
    calls = service.workspace().connection(connection)
    switched = confirmed(lambda meant: calls.switch(company_name, company=company, confirm=meant), yes=yes)
    _show(switched, as_json)


@connections.command("switch-back")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def switch_back(service: Service, connection: str, as_json: bool) -> None:
    """Take a switch back within a day: its links stand again, and its lanes are on again.

    Enter the former address and key first: the end must say that it is the former company's.

    \b
    Example:
      inkwell connections switch-back uk-books
    """
    found = service.workspace().connection(connection).switch_back()
    _show(found, as_json)


@connections.command("remove")
@click.argument("connection")
@yes_option
@pass_service
@failing_well
def remove(service: Service, connection: str, yes: bool) -> None:
    """Remove an end that no bridge stands on; its credentials are erased.

    \b
    Example:
      inkwell connections remove trial-books
    """
    calls = service.workspace().connection(connection)
    confirmed(lambda meant: calls.remove(confirm=meant), yes=yes)
    output.say(f"{connection} is removed.")


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


def _show(connection: Connection, as_json: bool) -> None:
    if as_json:
        output.as_json(connection)
        return
    click.echo(f"{connection.name}: {connection.state}")
    if connection.signed_in:
        when = f"signed in by {connection.signed_in.by}" if connection.signed_in.at else "nobody has signed in yet"
        click.echo(f"  Consent page: {when}")
    if connection.mended:
        click.echo(f"  Mended: {'; '.join(connection.mended)}.")
    if connection.described:
        said = connection.described
        click.echo(f"  {said.company}, {said.currency}, {said.time_zone}")
        for permission in said.permissions:
            mark = "yes" if permission.granted else "no "
            click.echo(f"  {mark}  {permission.name}" + (f": {permission.remedy}" if permission.remedy else ""))
    if connection.state_text:
        click.echo(f"  {connection.state_text}")
