"""``inkwell people``, ``companies``, ``tokens`` and ``trail``: who may do what, and who did what."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from itertools import islice
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import (
    NoSuchThing,
    Service,
    code_option,
    failing_well,
    json_option,
    pass_service,
    with_code,
)
from inkwell_bridge.cli.exits import NEEDS_A_PERSON

LOOK_AGAIN_SECONDS = 0.4
ROLES = click.Choice(["see", "operate", "edit", "publish", "own"])


@click.group()
def people() -> None:
    """Who may do what in this workspace."""


@people.command("list")
@json_option
@pass_service
@failing_well
def list_people(service: Service, as_json: bool) -> None:
    """List everybody with their role, and who was invited and has not come yet.

    \b
    Example:
      inkwell people list
    """
    workspace = service.workspace()
    rows = list(workspace.people())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("E-mail", lambda row: row.email),
        ("Name", lambda row: row.name),
        ("Role", lambda row: row.role),
        ("Invited until", lambda row: getattr(row, "ends_at", None)),
    ]
    output.table([*rows, *workspace.invitations()], columns, empty="Nobody has a role here.")


@people.command("invite")
@click.argument("email")
@click.argument("role", type=ROLES)
@click.option("--name", default="", help="What people call them.")
@json_option
@pass_service
@failing_well
def invite(service: Service, email: str, role: str, name: str, as_json: bool) -> None:
    """Invite somebody: they come by a link that works once and for a day, and choose their own password.

    The link is mailed where the service has a mail server; else it is shown here, for you to hand on.

    \b
    Example:
      inkwell people invite bram@inkwell.example operate --name "Bram Okafor"
    """
    found = service.workspace().invite(email=email, role=role, name=name)
    if as_json:
        output.as_json(found)
    elif found.link:
        output.say(f"Hand this link on to {found.email}; it works once, until {output.shown(found.ends_at)} UTC:")
        click.echo(found.link)
    else:
        output.say(f"The invitation was mailed to {found.email}.")


@people.command("give")
@click.argument("email")
@click.argument("role", type=ROLES)
@json_option
@pass_service
@failing_well
def give(service: Service, email: str, role: str, as_json: bool) -> None:
    """Give somebody who has a role here another one in its place.

    \b
    Example:
      inkwell people give bram@inkwell.example edit
    """
    found = service.workspace().give_role(email=email, role=role)
    if as_json:
        output.as_json(found)
    else:
        output.say(f"{found.email} may {found.role}.")


@people.command("remove")
@click.argument("email")
@pass_service
@failing_well
def remove_person(service: Service, email: str) -> None:
    """Take somebody's role here away, and their tokens for this workspace; or withdraw their invitation.

    What they did stays in the trail.

    \b
    Example:
      inkwell people remove bram@inkwell.example
    """
    workspace = service.workspace()
    rows = {row.email: row for row in workspace.people()}
    invited = {row.email: row for row in workspace.invitations()}
    wanted = email.lower()
    if wanted in rows:
        workspace.remove_person(rows[wanted].id)
        output.say(f"{wanted} has no role here any more.")
    elif wanted in invited:
        workspace.withdraw_invitation(invited[wanted].id)
        output.say(f"The invitation of {wanted} is withdrawn.")
    else:
        raise NoSuchThing(f"{email} has no role here. People here: {', '.join([*rows, *invited])}.")


@click.group()
def customers() -> None:
    """The buyers whose orders cross."""


@customers.command("erase")
@click.argument("email")
@json_option
@pass_service
@failing_well
def erase(service: Service, email: str, as_json: bool) -> None:
    """Erase all that tells of the buyer with that e-mail; figures, checksums and history stay.

    It covers what Inkwell Bridge keeps. Erase the buyer at the shop first: what the shop still tells of them is read
    again. The books keep what tax law asks for. Ends with status 1 where an order has not crossed yet and keeps its
    buyer.

    \b
    Example:
      inkwell customers erase thea.lindqvist@mail.example
    """
    workspace = service.workspace()
    found = workspace.erase_buyer(email)
    while found.ended_at is None:
        time.sleep(LOOK_AGAIN_SECONDS)
        found = workspace.erasure(found.id)
    if as_json:
        output.as_json(found)
    else:
        told = f"{found.snapshots:,} of {found.looked_at:,} documents told of this buyer"
        output.say(f"{told}, and {found.names:,} names of the reference data. That is erased.")
        if found.kept:
            output.say(f"Not carried yet, so they keep their buyer: {', '.join(found.kept)}. Erase again afterwards.")
    if found.kept:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


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
        ("Reports in", lambda row: row.report_language),
        ("Months closed by", lambda row: "two people" if row.two_close else "one person"),
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
        output.say(f"{made.name} was added.")


@companies.command("change")
@click.argument("company")
@click.option("--name", help="Its name.")
@click.option("--report-language", type=click.Choice(["en", "de", "fr"]), help="The language of its reports.")
@click.option("--two-close/--one-closes", default=None, help="Whether two people close a month, or one.")
@json_option
@pass_service
@failing_well
def change_company(
    service: Service, company: str, name: str | None, report_language: str | None, two_close: bool | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Change a company: the language of its reports, and whether a month needs a second pair of eyes.

    \b
    Example:
      inkwell companies change marrowby-uk --two-close
    """
    given = {"name": name, "report_language": report_language, "two_close": two_close}
    said = {field: value for field, value in given.items() if value is not None}
    if not said:
        raise click.UsageError("Say what is to change, such as: --two-close")
    changed = service.workspace().change_company(company, **said)
    if as_json:
        output.as_json(changed)
    else:
        output.say(f"{changed.name} was changed.")


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
        ("Last used", lambda row: row.last_used_at),
        ("Ends", lambda row: row.expires_at),
        ("", lambda row: "ends soon" if row.ends_soon else ""),
    ]
    output.table(rows, columns, empty="You have no tokens.")


@tokens.command("make")
@click.argument("name")
@click.option("--email", required=True)
@click.option("--password", prompt=True, hide_input=True, envvar="INKWELL_PASSWORD")
@click.option("--workspace", "scope", help="Only for this workspace.")
@click.option("--role", type=ROLES, default="own", show_default=True, help="May do no more than this.")
@click.option("--ends", type=click.DateTime(["%Y-%m-%d"]), help="The day on which it ends.")
@code_option
@pass_service
@failing_well
def make_token(
    service: Service,
    name: str,
    email: str,
    password: str,
    scope: str | None,
    role: str,
    ends: datetime | None,
    code: str,
) -> None:
    """Make a token; its text is shown this once.

    \b
    Example:
      inkwell tokens make "nightly report" --email owner@inkwell.example --workspace marrowby --role see
    """
    expires_at = ends.replace(tzinfo=UTC) if ends else None
    client = service.client()
    given: dict[str, Any] = {"email": email, "password": password, "name": name, "workspace": scope, "role": role}
    click.echo(with_code(lambda typed: client.make_token(**given, code=typed, expires_at=expires_at), code))


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
