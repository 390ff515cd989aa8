"""``inkwell rulebooks``: the rules of bridges, and what all of a client's build on."""

from __future__ import annotations

from pathlib import Path

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.proposals import propose
from inkwell_bridge.cli.rehearsals import coverage, rehearse
from inkwell_bridge.cli.repository import pull_rules, push_rules
from inkwell_bridge.client import ApiError
from inkwell_bridge.client.models import BaseRulebook

_FILE = click.Path(exists=True, dir_okay=False, path_type=Path)


@click.group()
def rulebooks() -> None:
    """The rules of a bridge."""


@rulebooks.command("write")
@click.argument("bridge")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--publish", is_flag=True, help="Put it in force at once.")
@click.option("--after", type=int, help="Only where this is the newest version still: nobody else wrote one since.")
@click.option("--note", default="", help="What there is to say of it.")
@json_option
@pass_service
@failing_well
def write(
    service: Service, bridge: str, file: Path, publish: bool, after: int | None, note: str, as_json: bool
) -> None:
    """Write a rulebook from a YAML file; every error names its line.

    \b
    Example:
      inkwell rulebooks write web-shop-to-uk-books rulebook.yaml --publish
    """
    calls = service.workspace().bridge(bridge)
    version = calls.write_rulebook(_text(file), file=file.name, after=after, note=note)
    if publish:
        try:
            version = calls.publish_rulebook(version.number, file=file.name)
        except ApiError:
            output.say(f"Version {version.number} is kept as a draft, and was not published:")
            raise
    if as_json:
        output.as_json(version)
        return
    for finding in version.findings:
        output.say(f"{finding.level}: {finding.text} {finding.hint}")
    output.say(f"Version {version.number} is {'in force' if version.published_at else 'a draft'}.")


@rulebooks.command("starter")
@click.argument("bridge")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path), required=False)
@pass_service
@failing_well
def starter(service: Service, bridge: str, file: Path | None) -> None:
    """Write rules to start from, made from the reference data of both ends; to standard output, or to a new FILE.

    Each account and tax code is proposed by type, rate and name, and marked so. Take the marks away as you agree.

    \b
    Example:
      inkwell rulebooks starter web-shop-to-uk-books rulebook.yaml
    """
    if file is not None and file.exists():
        raise click.UsageError(f"{file} is there already; name a new file.")
    text = service.workspace().bridge(bridge).starter()
    if file is None:
        click.echo(text, nl=False)
        return
    file.write_text(text, "utf-8")
    output.say(f"Written to {file}. Look at each line marked 'proposed', then: inkwell rulebooks write {bridge} {file}")


@rulebooks.command("list")
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def versions(service: Service, bridge: str, as_json: bool) -> None:
    """List the versions of a bridge's rules.

    \b
    Example:
      inkwell rulebooks list web-shop-to-uk-books
    """
    rows = list(service.workspace().bridge(bridge).rulebooks())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Version>", lambda row: row.number),
        ("Written", lambda row: row.created_at),
        ("By", lambda row: row.author),
        ("Published", lambda row: row.published_at),
        ("Note", lambda row: row.note),
    ]
    output.table(rows, columns, empty="No rulebook yet. Write one with: inkwell rulebooks write")


@rulebooks.command("publish")
@click.argument("bridge")
@click.argument("number", type=int)
@click.option("--note", default="", help="What there is to say of it.")
@json_option
@pass_service
@failing_well
def publish(service: Service, bridge: str, number: int, note: str, as_json: bool) -> None:
    """Put a draft in force, if the books have everything that it names.

    \b
    Example:
      inkwell rulebooks publish web-shop-to-uk-books 2
    """
    version = service.workspace().bridge(bridge).publish_rulebook(number, note=note)
    if as_json:
        output.as_json(version)
        return
    for finding in version.findings:
        output.say(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
    output.say(f"Version {version.number} is in force.")


@rulebooks.command("back")
@click.argument("bridge")
@click.argument("number", type=int, required=False)
@json_option
@pass_service
@failing_well
def back(service: Service, bridge: str, number: int | None, as_json: bool) -> None:
    """Put an earlier version in force again, as a new one; without a number, the one before that in force.

    \b
    Examples:
      inkwell rulebooks back web-shop-to-uk-books
      inkwell rulebooks back web-shop-to-uk-books 3
    """
    calls = service.workspace().bridge(bridge)
    if number is None:
        published = [one.number for one in calls.rulebooks() if one.published_at]
        if len(published) < 2:
            raise NoSuchThing(f"No version of {bridge} was in force before. See: inkwell rulebooks list {bridge}")
        number = published[1]
    version = calls.take_up_rulebook_again(number)
    if as_json:
        output.as_json(version)
        return
    output.say(f"Version {version.number} is in force: version {number} again.")


@rulebooks.command("show")
@click.argument("bridge")
@click.argument("number", type=int, required=False)
@json_option
@pass_service
@failing_well
def show(service: Service, bridge: str, number: int | None, as_json: bool) -> None:
    """Show the text of a version; without a number, of the one in force.

    \b
    Example:
      inkwell rulebooks show web-shop-to-uk-books
    """
    calls = service.workspace().bridge(bridge)
    number = number if number is not None else calls.read().rulebook_in_force
    if number is None:
        raise NoSuchThing(f"{bridge} has no rules in force. See: inkwell rulebooks list {bridge}")
    version = calls.rulebook(number)
    if as_json:
        output.as_json(version)
    else:
        click.echo(version.text, nl=not version.text.endswith("\n"))


@rulebooks.command("compare")
@click.argument("bridge")
@click.argument("number", type=int)
@click.option("--since", type=int, help="The version before; the one in force if left out.")
@json_option
@pass_service
@failing_well
def compare(service: Service, bridge: str, number: int, since: int | None, as_json: bool) -> None:
    """Say in plain sentences how a version differs from the one in force.

    \b
    Example:
      inkwell rulebooks compare web-shop-to-uk-books 2
    """
    changes = service.workspace().bridge(bridge).rule_changes(number, since=since)
    if as_json:
        output.as_json(changes)
        return
    for change in changes:
        click.echo(change.text)
    if not changes:
        click.echo("There is no difference.")


@rulebooks.group("base")
def base() -> None:
    """What the rulebooks of this client build on: based_on names it."""


@base.command("list")
@json_option
@pass_service
@failing_well
def bases(service: Service, as_json: bool) -> None:
    """List them, each with its newest version.

    \b
    Example:
      inkwell rulebooks base list
    """
    rows = list(service.workspace().base_rulebooks())
    if as_json:
        output.as_json(rows)
        return
    columns: list[output.Column] = [
        ("Name", lambda row: row.name),
        ("Version>", lambda row: row.number),
        ("Written", lambda row: row.created_at),
        ("By", lambda row: row.author),
    ]
    output.table(rows, columns, empty="None yet. Write one with: inkwell rulebooks base write")


@base.command("write")
@click.argument("file", type=_FILE)
@click.option("--name", help="What rulebooks call it under based_on; the name of the file if left out.")
@click.option("--redraft", is_flag=True, help="Also draft new rules for every bridge that builds on it.")
@json_option
@pass_service
@failing_well
def write_base(service: Service, file: Path, name: str | None, redraft: bool, as_json: bool) -> None:
    """Write a version of a base. No bridge's rules change by it before new drafts are written and published.

    \b
    Example:
      inkwell rulebooks base write client.yaml --redraft
    """
    written = service.workspace().write_base_rulebook(name or file.name, _text(file), redraft=redraft)
    if as_json:
        output.as_json(written)
    else:
        _show_base(written)


@base.command("show")
@click.argument("name")
@json_option
@pass_service
@failing_well
def show_base(service: Service, name: str, as_json: bool) -> None:
    """Show the text of a base, and the bridges that build on it.

    \b
    Example:
      inkwell rulebooks base show client.yaml
    """
    found = service.workspace().base_rulebook(name)
    if as_json:
        output.as_json(found)
    else:
        click.echo(found.text, nl=not found.text.endswith("\n"))
        _show_base(found)


def _show_base(found: BaseRulebook) -> None:
    output.say(f"{found.name} is at version {found.number}.")
    for one in found.bridges:
        state = "in force" if one.published else "a draft"
        behind = "" if one.on == found.number else f", written on version {one.on} of it"
        wrong = f", with {one.errors} to mend" if one.errors else ""
        output.say(f"{one.bridge}: version {one.rulebook} is {state}{behind}{wrong}.")


def _text(file: Path) -> str:
    try:
        return file.read_text("utf-8")
    except UnicodeDecodeError as error:
        raise click.UsageError(f"{file} is not a text file in UTF-8.") from error


for _command in (rehearse, coverage, propose, pull_rules, push_rules):
    rulebooks.add_command(_command)
