"""``inkwell calls``: what ends call us about."""

from __future__ import annotations

import re
from itertools import islice

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.client.models import CallAddress

COLUMNS: list[output.Column] = [
    ("Received", lambda row: row.received_at),
    ("Kind", lambda row: row.kind),
    ("Number", lambda row: row.number),
    ("Happened", lambda row: row.happened_at),
    ("State", lambda row: row.state),
]


@click.group()
def calls() -> None:
    """Signed calls from shops and marketplaces: their address, secrets and registration."""


@calls.command("show")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def show(service: Service, connection: str, as_json: bool) -> None:
    """Show where an end calls, which secrets are good, and when it last called.

    \b
    Example:
      inkwell calls show web-shop
    """
    found = service.workspace().connection(connection).call_address()
    if as_json:
        output.as_json(found)
        return
    for line in _described(found):
        click.echo(line)


def _described(found: CallAddress) -> list[str]:
    heard = f"{found.last_call_at:%Y-%m-%d %H:%M} UTC" if found.last_call_at else "never"
    lines = [f"Address     {found.address}", f"Last call   {heard}"]
    if found.should_be_heard_by:
        silent = ": it is silent" if found.silent else ""
        lines.append(f"Expected    by {found.should_be_heard_by:%Y-%m-%d %H:%M} UTC{silent}")
    for secret in found.secrets:
        until = f", good until {secret.ends_at:%Y-%m-%d %H:%M} UTC" if secret.ends_at else ""
        lines.append(f"Secret {secret.id:<4} made {secret.made_at:%Y-%m-%d %H:%M} UTC by {secret.made_by}{until}")
    if not found.secrets:
        lines.append("No secret: nothing is believed. Make one with: inkwell calls secret CONNECTION")
    if found.refused:
        lines.append(f"Refused     {found.refused}, the last because {found.last_refused_why}")
    return lines


@calls.command("list")
@click.argument("connection")
@click.option("--state", type=click.Choice(["waiting", "done", "not carried", "not found"]), help="Only in this state.")
@click.option("--number", help="Only about this document.")
@click.option("--limit", default=20, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def list_(
    service: Service, connection: str, state: str | None, number: str | None, limit: int, as_json: bool
) -> None:  # fmt: skip
    """List the calls that an end made, newest first.

    \b
    Example:
      inkwell calls list web-shop --limit 5
    """
    found = service.workspace().connection(connection).incoming_calls(state=state or "", number=number or "")
    rows = list(islice(found, limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="It has not called yet. See where to with: inkwell calls show CONNECTION")


@calls.command("register")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def register(service: Service, connection: str, as_json: bool) -> None:
    """Have an end call us, through its own interface, signed with a new secret; again, to renew it.

    \b
    Example:
      inkwell calls register web-shop
    """
    found = service.workspace().connection(connection).register_calls()
    if as_json:
        output.as_json(found)
    else:
        output.say(f"{connection} calls {found.registered_to} from now on.")


@calls.command("check")
@click.argument("connection")
@json_option
@pass_service
@failing_well
def check(service: Service, connection: str, as_json: bool) -> None:
    """Ask an end whom it calls.

    \b
    Example:
      inkwell calls check web-shop
    """
    found = service.workspace().connection(connection).registered_calls()
    if as_json:
        output.as_json(found)
    elif not found.registered_to:
        click.echo(f"{connection} calls nobody. Register it with: inkwell calls register {connection}")
    else:
        ours = "us" if found.is_ours else "somebody else"
        click.echo(f"{connection} calls {ours}: {found.registered_to}")


@calls.command("end")
@click.argument("connection")
@pass_service
@failing_well
def end(service: Service, connection: str) -> None:
    """Have an end call nobody.

    \b
    Example:
      inkwell calls end web-shop
    """
    service.workspace().connection(connection).end_calls()
    output.say(f"{connection} calls nobody any more.")


@calls.command("secret")
@click.argument("connection")
@click.option("--given", default="", help="The secret that the other end gave (whsec_…); else one is made.")
@click.option("--end", "ended", type=int, metavar="NUMBER", help="Refuse what is signed with this one from now on.")
@pass_service
@failing_well
def secret(service: Service, connection: str, given: str, ended: int | None) -> None:
    """Make a secret to sign calls with, and show it once; the one before stays good for a day.

    \b
    Examples:
      inkwell calls secret web-shop
      inkwell calls secret web-shop --end 3
    """
    found = service.workspace().connection(connection)
    if ended is not None:
        found.end_call_secret(ended)
        output.say(f"Secret {ended} is good for nothing any more.")
        return
    made = found.new_call_secret(given)
    if given:
        output.say("The secret is kept; the one before stays good for a day.")
    else:
        click.echo(made)
        output.say("It is shown this once. Enter it at the other end; the one before stays good for a day.")


@calls.command("expect")
@click.argument("connection")
@click.argument("within")
@pass_service
@failing_well
def expect(service: Service, connection: str, within: str) -> None:
    """Say how long an end may be silent, such as 90m, 6h or 2d; off: it promises nothing.

    \b
    Example:
      inkwell calls expect web-shop 6h
    """
    found = re.fullmatch(r"(\d{1,4})([mhd])|(off)", within)
    if not found:
        raise click.UsageError(f"WITHIN: expected such as 90m, 6h, 2d or off, got {within!r}.")
    minutes = 0 if found[3] else int(found[1]) * {"m": 1, "h": 60, "d": 1440}[found[2]]
    said = service.workspace().connection(connection).expect_calls(within_minutes=minutes)
    if said.should_be_heard_by:
        output.say(f"{connection} should be heard by {said.should_be_heard_by:%Y-%m-%d %H:%M} UTC.")
    else:
        output.say(f"{connection} promises nothing, so it is never called silent.")
