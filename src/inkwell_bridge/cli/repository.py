"""Rules and whole configurations as files, to be kept in a repository: taken out, compared, brought back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service, yes_option
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.files import NotRight, text_of
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.errors import NotFound
from inkwell_bridge.client.models import ConfigurationComparison

_FOLDER = click.Path(exists=True, file_okay=False, path_type=Path)
_NEW_FOLDER = click.Path(file_okay=False, path_type=Path)


@click.command("pull")
@click.argument("bridge")
@click.argument("folder", type=_NEW_FOLDER)
@pass_service
@failing_well
def pull_rules(service: Service, bridge: str, folder: Path) -> None:
    """Write the rules in force to FOLDER as rulebook.yaml, and beside it those that they build on.

    \b
    Example:
      inkwell rulebooks pull web-shop-to-uk-books rules/
    """
    found = service.workspace().bridge(bridge).configuration(links=False)
    files = {"rulebook.yaml": found["rulebook"], **found["bases"]}
    if not files["rulebook.yaml"]:
        raise click.ClickException(f"{bridge} has no rules yet.")
    _write(folder, files)


@click.command("push")
@click.argument("bridge")
@click.argument("folder", type=_FOLDER)
@click.option("--publish", is_flag=True, help="Put them in force at once.")
@click.option("--note", default="", help="What there is to say of them.")
@pass_service
@failing_well
def push_rules(service: Service, bridge: str, folder: Path, publish: bool, note: str) -> None:
    """Bring rulebook.yaml of FOLDER back as a new version, and those that it builds on where they were changed.

    What stands there already is written once: pushing the same again does nothing.

    \b
    Example:
      inkwell rulebooks push web-shop-to-uk-books rules/ --publish
    """
    workspace = service.workspace()
    calls, text = workspace.bridge(bridge), text_of(folder / "rulebook.yaml")
    changed = _push_bases(workspace, folder, text)
    newest = next(iter(calls.rulebooks()), None)
    version = calls.rulebook(newest.number) if newest else None
    if version is None or changed or version.text != text:
        version = calls.write_rulebook(text, note=note)
        output.say(f"Version {version.number} is written.")
    else:
        output.say(f"Version {version.number} says this already.")
    if publish and not version.published_at:
        version = calls.publish_rulebook(version.number, note=note)
        output.say(f"Version {version.number} is in force.")
    for finding in version.findings:
        output.say(f"{finding.level}: {finding.text} {finding.hint}".rstrip())


def _push_bases(workspace: WorkspaceCalls, folder: Path, text: str) -> bool:
    """Write what rules build on where it is another; says whether any was. What lies deepest comes first."""
    # Reading rules takes packages that the rest of the command line does without.
    from inkwell_bridge.cli.offline import bases_of  # noqa: PLC0415

    changed = False
    for name, base in reversed(bases_of(text, folder).items()):
        try:
            there = workspace.base_rulebook(name).text
        except NotFound:
            there = ""
        if there != base:
            workspace.write_base_rulebook(name, base)
            output.say(f"{name} is written.")
            changed = True
    return changed


@click.command("pull")
@click.argument("bridge")
@click.argument("folder", type=_NEW_FOLDER)
@pass_service
@failing_well
def pull(service: Service, bridge: str, folder: Path) -> None:
    """Write the whole configuration of a bridge to FOLDER: rules, lanes, timetable, links by code; never a secret.

    \b
    Example:
      inkwell bridges pull web-shop-to-uk-books october/
    """
    from inkwell_bridge.core.configuration import Configuration, as_folder  # noqa: PLC0415

    found = Configuration.read(service.workspace().bridge(bridge).configuration())
    _write(folder, as_folder(found))
    for kind, count in found.without_code.items():
        output.say(f"{count} links of {kind} have no code of their own on one side, and are not in the files.")


@click.command("compare")
@click.argument("bridge")
@click.argument("other")
@json_option
@pass_service
@failing_well
def compare(service: Service, bridge: str, other: str, as_json: bool) -> None:
    """Say how BRIDGE would change if the configuration of OTHER were applied to it: a folder, or another bridge.

    What is not there comes first. Ends with status 1 where anything differs.

    \b
    Examples:
      inkwell bridges compare web-shop-to-uk-books october/
      inkwell bridges compare live-shop-to-books test-shop-to-books
    """
    found = service.workspace().bridge(bridge).compare_configuration(_configuration(other))
    _show(found, as_json)
    if found.missing or found.differences:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@click.command("apply")
@click.argument("bridge")
@click.argument("other")
@click.option("--leave-missing", is_flag=True, help="Without what is not there.")
@click.option("--draft", is_flag=True, help="Its rules stay a draft.")
@yes_option
@json_option
@pass_service
@failing_well
def apply(
    service: Service, bridge: str, other: str, leave_missing: bool, draft: bool, yes: bool, as_json: bool
) -> None:
    """Set BRIDGE up like OTHER, a folder or another bridge: in one step, all of it or nothing.

    It says what would change, and asks. Ends with status 1 where something is not there and nothing was applied.

    \b
    Example:
      inkwell bridges apply live-shop-to-books test-shop-to-books
    """
    calls, there = service.workspace().bridge(bridge), _configuration(other)
    if not yes:
        found = calls.compare_configuration(there)
        _show(found, as_json=False)
        if found.missing and not leave_missing:
            output.say("Nothing was applied. Make what is not there, or apply the rest with --leave-missing.")
            raise click.exceptions.Exit(NEEDS_A_PERSON)
        if not found.differences:
            return
        click.confirm("Apply it?", abort=True, err=True)
    found = calls.apply_configuration(there, leave_missing=leave_missing, publish=not draft)
    if as_json:
        output.as_json(found)
        return
    rules = f" Version {found.rulebook} of the rules is {'a draft' if draft else 'in force'}." if found.rulebook else ""
    output.say(f"The configuration was applied to {bridge}.{rules}")


def _show(found: ConfigurationComparison, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
        return
    for one in found.missing:
        click.echo(f"not there ({one.of}): {one.text}")
    if found.missing_count > len(found.missing):
        click.echo(f"and {found.missing_count - len(found.missing)} more that are not there")
    for difference in found.differences:
        click.echo(f"{difference.of}: {difference.text}")
    if not found.differences and not found.missing:
        click.echo("There is no difference.")


def _configuration(other: str) -> Mapping[str, Any] | str:
    """The configuration in a folder; a name that is none is that of a bridge."""
    if not Path(other).is_dir():
        return other
    from inkwell_bridge.core.configuration import from_folder  # noqa: PLC0415
    from inkwell_bridge.core.errors import DocumentInvalid  # noqa: PLC0415

    try:
        return from_folder(_Files(Path(other))).as_json()
    except DocumentInvalid as error:
        raise NotRight(str(error)) from error


class _Files(Mapping[str, str]):
    """The files of a folder by name, each read when it is asked for: what else stands there is nobody's business."""

    def __init__(self, folder: Path) -> None:
        self._files = {file.name: file for file in sorted(folder.iterdir()) if file.is_file()}

    def __getitem__(self, name: str) -> str:
        return text_of(self._files[name])

    def __iter__(self) -> Iterator[str]:
        return iter(self._files)

    def __len__(self) -> int:
        return len(self._files)


def _write(folder: Path, files: Mapping[str, str]) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, text in files.items():
        # Names come from the service: none leads out of the folder.
        if Path(name).name != name:
            raise NotRight(f"{name!r} is no name of a file.")
        (folder / name).write_text(text, "utf-8")
    output.say(f"Written to {folder}: {', '.join(sorted(files))}.")
