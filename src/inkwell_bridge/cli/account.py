"""``inkwell password`` and ``browsers``: one's own account."""

from __future__ import annotations

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import (
    Service,
    code_option,
    failing_well,
    json_option,
    pass_service,
    with_code,
)
from inkwell_bridge.client import Client


@click.group("password")
def password_() -> None:
    """Your password."""


@password_.command("change")
@click.option("--password", prompt="Your password", hide_input=True, envvar="INKWELL_PASSWORD")
@click.option("--new-password", prompt="The new one", hide_input=True, confirmation_prompt="Once more")
@click.option("--withdraw-tokens", is_flag=True, help="Withdraw your tokens too, this command line's among them.")
@code_option
@pass_service
@failing_well
def change_password(service: Service, password: str, new_password: str, withdraw_tokens: bool, code: str) -> None:
    """Change your password; every browser has to sign in anew.

    \b
    Example:
      inkwell password change
    """
    account = service.client().account
    given = {"password": password, "new_password": new_password}
    with_code(lambda typed: account.change_password(**given, code=typed, withdraw_tokens=withdraw_tokens), code)
    output.say("Your password is changed." + (" Your tokens are withdrawn." if withdraw_tokens else ""))


@password_.command("reset")
@click.option("--address", required=True, help="Where the service is, such as http://127.0.0.1:8642")
@click.argument("email")
@failing_well
def reset_password(address: str, email: str) -> None:
    """Have a link mailed by which a forgotten password is chosen anew.

    \b
    Example:
      inkwell password reset --address http://127.0.0.1:8642 owner@inkwell.example
    """
    Client(address).ask_for_reset(email)
    output.say(f"If {email} has an account, a link is on its way. It works once, for an hour.")


@click.group()
def browsers() -> None:
    """The browsers that you are signed in with."""


@browsers.command("list")
@json_option
@pass_service
@failing_well
def list_browsers(service: Service, as_json: bool) -> None:
    """List them, the last used first.

    \b
    Example:
      inkwell browsers list
    """
    rows = list(service.client().account.browsers())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Session>", lambda row: row.number),
        ("Signed in", lambda row: row.started_at),
        ("Last used", lambda row: row.last_used_at),
        ("From", lambda row: row.address),
        ("Browser", lambda row: row.browser),
    ]
    output.table(rows, columns, empty="You are signed in with no browser.")


@browsers.command("end")
@click.argument("number", type=int, required=False)
@click.option("--all", "everywhere", is_flag=True, help="End all of them.")
@pass_service
@failing_well
def end_browsers(service: Service, number: int | None, everywhere: bool) -> None:
    """End a session by its number, or all of them: the browser has to sign in anew.

    \b
    Example:
      inkwell browsers end --all
    """
    account = service.client().account
    if everywhere:
        account.end_browsers()
        output.say("Every browser has to sign in anew.")
    elif number is None:
        raise click.UsageError("Name a session by its number (see: inkwell browsers list), or give --all.")
    else:
        account.end_browser(number)
        output.say(f"Session {number} is ended.")
