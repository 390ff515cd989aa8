"""``inkwell people``, ``companies``, ``tokens`` and ``trail``: who may do what, and who did what."""

from __future__ import annotations

from datetime import UTC, datetime
from itertools import islice

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service

ROLES = click.Choice(["see", "operate", "edit", "own"])


@click.group()
def people() -> None:
    """Who may do what in this workspace."""


@people.command("list")
@json_option
@pass_service
@failing_well
def list_people(service: Service, as_json: bool) -> None:
    """List everybody with their role.

    \b
    Example:
      inkwell people list
    """
    rows = list(service.workspace().people())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("E-mail", lambda row: row.email),
        ("Name", lambda row: row.name),
        ("Role", lambda row: row.role),
    ]
    output.table(rows, columns, empty="Nobody has a role here.")


@people.command("give")
@click.argument("email")
@click.argument("role", type=ROLES)
@click.option("--name", default="", help="For somebody new to the service.")
@click.option("--password", envvar="INKWELL_NEW_PASSWORD", help="For somebody new; INKWELL_NEW_PASSWORD is taken too.")
@json_option
@pass_service
@failing_well
def give(service: Service, email: str, role: str, name: str, password: str | None, as_json: bool) -> None:
    """Give somebody a role, in place of the one they had.

    \b
    Example:
      INKWELL_NEW_PASSWORD=... inkwell people give bram@inkwell.example operate --name "Bram Okafor"
    """
    found = service.workspace().give_role(email=email, role=role, name=name, password=password)
    if as_json:
        output.as_json(found)
    else:
        output.say(f"{found.email} may {found.role}.")


@click.group()
def companies() -> None:
    """The client's companies."""


@companies.command("list")
@json_option
@pass_service
@failing_well
def list_companies(service: Service, as_json: bool) -> None:
    """List them.

    \b
    Example:
      inkwell companies list
    """
    rows = list(service.workspace().companies())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Company", lambda row: row.slug),
        ("Name", lambda row: row.name),
        ("Country", lambda row: row.country),
        ("Currency", lambda row: row.currency),
        ("Time zone", lambda row: row.time_zone),
    ]
    output.table(rows, columns, empty="No companies yet. Make one with: inkwell companies add")


@companies.command("add")
@click.argument("company")
@click.option("--name", required=True)
@click.option("--country", required=True, help="Two letters, such as GB.")
@click.option("--currency", required=True, help="Three letters, such as GBP.")
@click.option("--time-zone", required=True, help="Such as Europe/London.")
@json_option
@pass_service
@failing_well
def add_company(
    service: Service, company: str, name: str, country: str, currency: str, time_zone: str, as_json: bool
) -> None:
    """Add a company, whose currency and time zone count on its bridges.

    \b
    Example:
      inkwell companies add marrowby-uk --name "Marrowby Yarn & Dye Works Ltd" \\
        --country GB --currency GBP --time-zone Europe/London
    """
    made = service.workspace().create_company(
        slug=company, name=name, country=country, currency=currency, time_zone=time_zone
    )
    if as_json:
        output.as_json(made)
    else:
        output.say(f"{made.name} is here.")


@click.group()
def tokens() -> None:
    """Keys for programs."""


@tokens.command("list")
@json_option
@pass_service
@failing_well
def list_tokens(service: Service, as_json: bool) -> None:
    """List your tokens, without their texts.

    \b
    Example:
      inkwell tokens list
    """
    rows = list(service.client().tokens())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Token>", lambda row: row.id),
        ("Name", lambda row: row.name),
        ("Workspace", lambda row: row.workspace or "all"),
        ("Role", lambda row: row.role),
        ("Made", lambda row: row.created_at),
        ("Ends", lambda row: row.expires_at),
    ]
    output.table(rows, columns, empty="You have no tokens.")


@tokens.command("make")
@click.argument("name")
@click.option("--email", required=True)
@click.option("--password", prompt=True, hide_input=True, envvar="INKWELL_PASSWORD")
@click.option("--workspace", "scope", help="Only for this workspace.")
@click.option("--role", type=ROLES, default="own", show_default=True, help="May do no more than this.")
@click.option("--ends", type=click.DateTime(["%Y-%m-%d"]), help="The day on which it ends.")
@pass_service
@failing_well
def make_token(
    service: Service, name: str, email: str, password: str, scope: str | None, role: str, ends: datetime | None
) -> None:
    """Make a token; its text is shown this once.

    \b
    Example:
      inkwell tokens make "nightly report" --email owner@inkwell.example --workspace marrowby --role see
    """
    expires_at = ends.replace(tzinfo=UTC) if ends else None
    client = service.client()
    click.echo(
        client.make_token(email=email, password=password, name=name, workspace=scope, role=role, expires_at=expires_at)
    )


@tokens.command("withdraw")
@click.argument("number", type=int)
@pass_service
@failing_well
def withdraw_token(service: Service, number: int) -> None:
    """Withdraw a token; it is refused from now on.

    \b
    Example:
      inkwell tokens withdraw 3
    """
    service.client().withdraw_token(number)
    output.say(f"Token {number} is withdrawn.")


@click.command()
@click.option("--limit", type=click.IntRange(1, 10_000), default=50, show_default=True)
@json_option
@pass_service
@failing_well
def trail(service: Service, limit: int, as_json: bool) -> None:
    """Show who did what, newest first.

    \b
    Example:
      inkwell trail --limit 20
    """
    rows = list(islice(service.workspace().trail(), limit))
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("When", lambda row: row.at),
        ("Who", lambda row: row.person or "by itself"),
        ("Did", lambda row: row.action),
        ("To", lambda row: row.about),
        ("With", lambda row: ", ".join(f"{name} {value}" for name, value in row.details.items())),
    ]
    output.table(rows, columns, empty="Nothing was done here yet.")
