"""``inkwell``: the entrance of the command line."""

from __future__ import annotations

import sys
from dataclasses import replace

import click

from inkwell_bridge import __version__
from inkwell_bridge.cli import output
from inkwell_bridge.cli.account import browsers, password_
from inkwell_bridge.cli.bank import bank
from inkwell_bridge.cli.base import Service, code_option, failing_well, json_option, pass_service, problem, with_code
from inkwell_bridge.cli.bridges import bridges
from inkwell_bridge.cli.calls import calls
from inkwell_bridge.cli.clearing import clearing
from inkwell_bridge.cli.completeness import completeness
from inkwell_bridge.cli.connections import connections
from inkwell_bridge.cli.demo import demo
from inkwell_bridge.cli.documents import documents
from inkwell_bridge.cli.exits import INTERRUPTED, NEEDS_A_PERSON
from inkwell_bridge.cli.holds import holds
from inkwell_bridge.cli.links import links
from inkwell_bridge.cli.months import months
from inkwell_bridge.cli.names import names
from inkwell_bridge.cli.notices import notices
from inkwell_bridge.cli.opening import opening
from inkwell_bridge.cli.payouts import payouts
from inkwell_bridge.cli.people import companies, customers, people, tokens, trail
from inkwell_bridge.cli.rates import rates
from inkwell_bridge.cli.requests import requests
from inkwell_bridge.cli.rulebook import plan, rulebook
from inkwell_bridge.cli.rulebooks import rulebooks
from inkwell_bridge.cli.runs import run, runs
from inkwell_bridge.cli.setup import adopt, setup, start_date, try_
from inkwell_bridge.cli.tie_out import tie_out
from inkwell_bridge.cli.trials import trials
from inkwell_bridge.client import Client, profile


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, prog_name="inkwell")
@click.option("--workspace", "-w", help="The client to work for; else the one remembered by 'inkwell use'.")
@click.pass_context
def main(context: click.Context, workspace: str | None) -> None:
    """Carry storefront orders onto accounting documents, once, whole and provably.

    \b
    Exit status: 0 done · 1 done, but something needs a person · 2 misused
    3 not signed in or not allowed · 4 no such thing · 5 what was sent is not right
    6 something stands in the way · 7 the service did not answer · 130 interrupted
    """
    context.obj = Service(workspace)


@main.command("sign-in")
@click.option("--address", required=True, help="Where the service is, such as http://127.0.0.1:8642")
@click.option("--email", required=True)
@click.option(
    "--password",
    prompt=True,
    hide_input=True,
    envvar="INKWELL_PASSWORD",
    help="Asked for where it is not given; INKWELL_PASSWORD in the environment is taken too.",
)
@code_option
@failing_well
def sign_in(address: str, email: str, password: str, code: str) -> None:
    """Sign in and remember it.

    \b
    Example:
      inkwell sign-in --address http://127.0.0.1:8642 --email owner@inkwell.example
    """
    token = with_code(
        lambda given: Client(address).make_token(email=email, password=password, code=given, name="command line"), code
    )
    entries = Client(address, token=token).workspaces()
    workspace = entries[0].slug if len(entries) == 1 else ""
    profile.save(profile.Profile(address=address, token=token, workspace=workspace))
    output.say(f"Signed in at {address}." + (f" Working for {workspace}." if workspace else ""))


@main.command("join")
@click.argument("link")
@click.option("--name", default="", help="What people call you, where you are new to the service.")
@click.option(
    "--password",
    prompt=True,
    hide_input=True,
    envvar="INKWELL_PASSWORD",
    help="The one that you have, or choose now; INKWELL_PASSWORD in the environment is taken too.",
)
@code_option
@failing_well
def join(link: str, name: str, password: str, code: str) -> None:
    """Take an invitation up, by the link that was sent to you.

    \b
    Example:
      inkwell join "http://127.0.0.1:8642/invitation#..."
    """
    address = link.partition("/invitation")[0]
    entry = with_code(
        lambda given: Client(address).accept_invitation(link, password=password, name=name, code=given), code
    )
    output.say(f"You may {entry.role} in {entry.name}. Sign in with: inkwell sign-in --address {address} --email EMAIL")


@main.command("use")
@click.argument("workspace")
@json_option
@pass_service
@failing_well
def use(service: Service, workspace: str, as_json: bool) -> None:
    """Remember which workspace to work for.

    \b
    Example:
      inkwell use marrowby
    """
    entry = service.client().workspace(workspace).read()
    profile.save(replace(service.profile, workspace=entry.slug))
    if as_json:
        output.as_json(entry)
    else:
        output.say(f"Working for {entry.name}.")


@main.group("workspaces", invoke_without_command=True)
@click.pass_context
def workspaces(context: click.Context) -> None:
    """The clients that you work for; without a command, a list of them.

    \b
    Example:
      inkwell workspaces
    """
    if context.invoked_subcommand is None:
        context.invoke(list_workspaces)


@workspaces.command("add")
@click.argument("workspace")
@click.option("--name", required=True, help="What people call the client.")
@json_option
@pass_service
@failing_well
def add_workspace(service: Service, workspace: str, name: str, as_json: bool) -> None:
    """Open a workspace for another client; you are its owner.

    \b
    Example:
      inkwell workspaces add marrowby --name "Marrowby Yarn & Dye Works"
    """
    entry = service.client().open_workspace(slug=workspace, name=name)
    if as_json:
        output.as_json(entry)
    else:
        output.say(f"Opened {entry.name}. Work for it with: inkwell use {entry.slug}")


@workspaces.command("list")
@json_option
@pass_service
@failing_well
def list_workspaces(service: Service, as_json: bool) -> None:
    """List the workspaces you have a role in.

    \b
    Example:
      inkwell workspaces list
    """
    entries = service.client().workspaces()
    if as_json:
        output.as_json(entries)
        return
    output.table(
        entries,
        [
            ("Workspace", lambda entry: entry.slug),
            ("Name", lambda entry: entry.name),
            ("Role", lambda entry: entry.role),
        ],
        empty="You have no role in any workspace yet.",
    )


for command in (
    companies, connections, names, links, bridges, setup, rulebook, plan, rulebooks, try_, trials, start_date,
    opening, adopt, run, runs, calls, notices, rates, payouts, bank, clearing, completeness, requests, documents, holds,
    tie_out, months,
    people, customers, tokens, trail, password_, browsers, demo,
):  # fmt: skip
    main.add_command(command)


def entrance() -> None:
    """Run the command that was given, and end with its status.

    Under ``--json`` a command that was not used rightly is answered in JSON as well: whatever reads that reads nothing
    else.
    """
    try:
        status = main.main(standalone_mode=False)
    except click.UsageError as error:
        if "--json" in sys.argv:
            output.as_json(problem(error))
        else:
            error.show()
        sys.exit(error.exit_code)
    except click.ClickException as error:
        error.show()
        sys.exit(error.exit_code)
    except click.Abort as stopped:
        if isinstance(stopped.__cause__, KeyboardInterrupt):
            # A call may be under way, and what it asked for may be done all the same.
            click.echo("Interrupted. See what was done before you do it again.", err=True)
            sys.exit(INTERRUPTED)
        click.echo("Nothing was done.", err=True)
        sys.exit(NEEDS_A_PERSON)
    except BrokenPipeError:
        # Whoever read along has seen enough.
        sys.stderr.close()
        sys.exit(0)
    sys.exit(status if isinstance(status, int) else 0)
