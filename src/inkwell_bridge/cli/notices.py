"""``inkwell notices``: what needs somebody, and who is told of it."""

from __future__ import annotations

from itertools import islice
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client.models import NoticeRule

KINDS = ("held", "differs", "run failed", "end", "silent", "statement", "account", "untied day", "closed month")
TROUBLES: list[output.Column] = [
    ("What", lambda row: row.headline),
    ("Since", lambda row: row.opened_at),
    ("Oldest", lambda row: row.oldest),
    ("Next try", lambda row: row.next_try_at),
]
RULES: list[output.Column] = [
    ("Rule>", lambda row: row.id),
    ("To", lambda row: row.person or row.address),
    ("What", lambda row: ", ".join(row.kinds) or "everything"),
    ("When", lambda row: _when(row)),
    ("On", lambda row: "on" if row.on else "off"),
    ("Last sent", lambda row: row.last_sent_at),
    ("Trouble", lambda row: row.last_failure),
]
SENT: list[output.Column] = [
    ("Made", lambda row: row.made_at),
    ("To", lambda row: row.recipient),
    ("Subject", lambda row: row.subject),
    ("State", lambda row: row.state),
    ("Trouble", lambda row: row.failure),
]


def _when(rule: NoticeRule) -> str:
    parts = ["at once"] if rule.at_once else []
    parts += [f"digest {rule.digest_at}"] if rule.digest_at else []
    parts += [f"summary {rule.summary_at}"] if rule.summary_at else []
    parts += [f"not {rule.quiet_from} to {rule.quiet_until}"] if rule.quiet_from else []
    return ", ".join(parts)


@click.group()
def notices() -> None:
    """What needs somebody, and who is told of it: by e-mail, or by signed calls."""


@notices.command("now")
@json_option
@pass_service
@failing_well
def now(service: Service, as_json: bool) -> None:
    """Show what needs somebody now. Ends with status 1 where anything does.

    \b
    Example:
      inkwell notices now
    """
    found = service.workspace().troubles()
    if as_json:
        output.as_json(found)
    else:
        output.table(found.troubles, TROUBLES, empty="Nothing needs anybody.")
    if found.troubles:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@notices.command("list")
@json_option
@pass_service
@failing_well
def list_(service: Service, as_json: bool) -> None:
    """List who is told of what.

    \b
    Example:
      inkwell notices list
    """
    rows = list(service.workspace().notice_rules())
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, RULES, empty="Nobody is told of anything. Tell somebody with: inkwell notices add")


def _time_options(command: Any) -> Any:
    for name, told in (
        ("--summary", "Send a summary of the day before at this time, such as 08:00."),
        ("--digest", "Gather what is to be told, and send it at this time, such as 17:00; not at once."),
        ("--quiet", "Send nothing between two times, such as 22:00-07:00."),
    ):
        command = click.option(name, help=told)(command)
    return command


@notices.command("add")
@click.option("--mail", help="E-mail of somebody who has a role here; without it and --call, your own.")
@click.option("--call", help="Call this address, signed (Standard Webhooks, CloudEvents).")
@click.option("--kind", "kinds", multiple=True, type=click.Choice(KINDS),
              help="Only this sort of trouble; can be repeated.")  # fmt: skip
@click.option("--bridge", "bridges", multiple=True, help="Only of this bridge; can be repeated.")
@click.option("--lane", "lanes", multiple=True, help="Only of this lane; can be repeated.")
@_time_options
@click.option("--time-zone", help="By these clocks; else by the company's.")
@json_option
@pass_service
@failing_well
def add(
    service: Service,
    mail: str | None,
    call: str | None,
    kinds: tuple[str, ...],
    bridges: tuple[str, ...],
    lanes: tuple[str, ...],
    digest: str | None,
    summary: str | None,
    quiet: str | None,
    time_zone: str | None,
    as_json: bool,
) -> None:
    """Tell somebody what needs a person: at once, unless a digest is asked for.

    \b
    Examples:
      inkwell notices add --mail owner@inkwell.example --summary 08:00 --quiet 22:00-07:00
      inkwell notices add --call https://chat.example/hook --kind end
    """
    if mail and call:
        raise click.UsageError("Give --mail or --call, and not both.")
    first, _, last = (quiet or "").partition("-")
    if quiet and not last:
        raise click.UsageError(f"--quiet: expected such as 22:00-07:00, got {quiet!r}.")
    given = {
        "channel": "call" if call else "mail", "person": mail, "address": call, "kinds": list(kinds) or None,
        "bridges": list(bridges) or None, "lanes": list(lanes) or None, "at_once": digest is None,
        "digest_at": digest, "summary_at": summary, "quiet_from": first or None, "quiet_until": last or None,
        "time_zone": time_zone,
    }  # fmt: skip
    made = service.workspace().add_notice_rule(**{name: value for name, value in given.items() if value is not None})
    if as_json:
        output.as_json(made)
        return
    output.say(f"{made.person or made.address} is told {_when(made)}. Try it with: inkwell notices test {made.id}")
    if made.secret:
        click.echo(made.secret)
        output.say("The calls are signed with this secret; it is shown this once.")


@notices.command("test")
@click.argument("rule", type=int)
@json_option
@pass_service
@failing_well
def test(service: Service, rule: int, as_json: bool) -> None:
    """Send one message now, and say what happened.

    \b
    Example:
      inkwell notices test 1
    """
    found = service.workspace().test_notice_rule(rule)
    if as_json:
        output.as_json(found)
    else:
        click.echo(found.text)
    if not found.sent:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@notices.command("switch")
@click.argument("rule", type=int)
@click.argument("switch", type=click.Choice(["on", "off"]))
@json_option
@pass_service
@failing_well
def switch(service: Service, rule: int, switch: str, as_json: bool) -> None:
    """Switch a rule off, or on again.

    \b
    Example:
      inkwell notices switch 1 off
    """
    found = service.workspace().change_notice_rule(rule, on=switch == "on")
    if as_json:
        output.as_json(found)
    else:
        output.say(f"Rule {found.id} is {switch}.")


@notices.command("remove")
@click.argument("rule", type=int)
@pass_service
@failing_well
def remove(service: Service, rule: int) -> None:
    """Tell them no more.

    \b
    Example:
      inkwell notices remove 1
    """
    service.workspace().remove_notice_rule(rule)
    output.say(f"Rule {rule} is removed.")


@notices.command("sent")
@click.option("--limit", default=20, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def sent(service: Service, limit: int, as_json: bool) -> None:
    """List the messages that were sent, newest first.

    \b
    Example:
      inkwell notices sent --limit 5
    """
    rows = list(islice(service.workspace().notices(), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, SENT, empty="Nothing was sent yet.")


@notices.command("past")
@click.option("--limit", default=20, show_default=True, help="How many at most.")
@json_option
@pass_service
@failing_well
def past(service: Service, limit: int, as_json: bool) -> None:
    """List every trouble there was, newest first.

    \b
    Example:
      inkwell notices past
    """
    rows = list(islice(service.workspace().past_troubles(), limit))
    if as_json:
        output.as_json(rows)
    else:
        columns: list[output.Column] = [*TROUBLES[:2], ("Over", lambda row: row.ended_at)]
        output.table(rows, columns, empty="There was no trouble yet.")
