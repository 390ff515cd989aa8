"""``inkwell bridges``."""

from __future__ import annotations

import re
from zoneinfo import ZoneInfo

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, confirmed, failing_well, json_option, pass_service, yes_option
from inkwell_bridge.cli.repository import apply, compare, pull
from inkwell_bridge.client.bridge import BridgeCalls
from inkwell_bridge.client.models import Bridge

COLUMNS: list[output.Column] = [
    ("Bridge", lambda row: row.slug),
    ("Name", lambda row: row.name),
    ("From", lambda row: row.source),
    ("To", lambda row: row.books),
    ("Lanes", lambda row: ", ".join(lane.kind for lane in row.lanes if lane.on) or "all off"),
    ("Rulebook", lambda row: row.rulebook_in_force),
    ("Runs next", lambda row: row.timetable and row.timetable.next_at),
]


@click.group()
def bridges() -> None:
    """What carries from a shop to the books."""


@bridges.command("list")
@json_option
@pass_service
@failing_well
def list_(service: Service, as_json: bool) -> None:
    """List all bridges.

    \b
    Example:
      inkwell bridges list --json
    """
    rows = list(service.workspace().bridges())
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="No bridges yet. Make one with: inkwell bridges add")


@bridges.command("add")
@click.argument("bridge")
@click.option("--name", required=True)
@click.option("--source", required=True, help="The sales-side connection.")
@click.option("--books", required=True, help="The books-side connection.")
@click.option("--company", required=True, help="Whose currency and time zone count.")
@json_option
@pass_service
@failing_well
def add(service: Service, bridge: str, name: str, source: str, books: str, company: str, as_json: bool) -> None:
    """Make a bridge; its lanes are off until you switch them on.

    \b
    Example:
      inkwell bridges add web-shop-to-uk-books --name "Web shop to UK books" \\
        --source web-shop --books uk-books --company marrowby-uk
    """
    made = service.workspace().create_bridge(slug=bridge, name=name, source=source, books=books, company=company)
    _show(made, as_json)


@bridges.command("show")
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def show(service: Service, bridge: str, as_json: bool) -> None:
    """Show one bridge.

    \b
    Example:
      inkwell bridges show web-shop-to-uk-books
    """
    _show(service.workspace().bridge(bridge).read(), as_json)


@bridges.command("change")
@click.argument("bridge")
@click.option("--name", required=True, help="What people call it.")
@json_option
@pass_service
@failing_well
def change(service: Service, bridge: str, name: str, as_json: bool) -> None:
    """Give a bridge another name; what it carries stays as it is. Its first day: inkwell start-date.

    \b
    Example:
      inkwell bridges change web-shop-to-uk-books --name "Shop to books"
    """
    _show(service.workspace().bridge(bridge).change(name=name), as_json)


@bridges.command("lane")
@click.argument("bridge")
@click.argument("kind")
@click.argument("switch", type=click.Choice(["on", "off"]))
@json_option
@pass_service
@failing_well
def lane(service: Service, bridge: str, kind: str, switch: str, as_json: bool) -> None:
    """Switch a kind of document on or off.

    \b
    Example:
      inkwell bridges lane web-shop-to-uk-books orders on
    """
    switched = service.workspace().bridge(bridge).switch_lane(kind, on=switch == "on")
    if as_json:
        output.as_json(switched)
        return
    output.say(f"The {kind} lane of {bridge} is {switch}.")


@bridges.command("timetable")
@click.argument("bridge")
@click.option("--every", metavar="MINUTES", help="Such as 15m.")
@click.option("--daily", metavar="TIME", help="Such as 18:30, by the company's wall clock.")
@click.option("--off", is_flag=True, help="Only run when somebody starts it.")
@json_option
@pass_service
@failing_well
def timetable(service: Service, bridge: str, every: str | None, daily: str | None, off: bool, as_json: bool) -> None:
    """Let a bridge run by itself; without options, show when it does.

    \b
    Examples:
      inkwell bridges timetable web-shop-to-uk-books
      inkwell bridges timetable web-shop-to-uk-books --every 15m
      inkwell bridges timetable web-shop-to-uk-books --daily 18:30
      inkwell bridges timetable web-shop-to-uk-books --off
    """
    given = sum((every is not None, daily is not None, off))
    if given > 1:
        raise click.UsageError("Give one of --every, --daily and --off, or none to see the timetable.")
    calls = service.workspace().bridge(bridge)
    if not given:
        _show_timetable(bridge, calls, as_json=as_json)
        return
    if off:
        calls.remove_timetable()
        output.say(f"{bridge} runs only when somebody starts it.")
        return
    minutes = re.fullmatch(r"(\d{1,4})m?", every) if every else None
    if every and not minutes:
        raise click.UsageError(f"--every: expected minutes such as 15m, got {every!r}.")
    found = calls.set_timetable(every_minutes=int(minutes[1]) if minutes else None, daily_at=daily)
    if as_json:
        output.as_json(found)
    else:
        output.say(f"{bridge} runs next at {found.next_at:%Y-%m-%d %H:%M} UTC.")


def _show_timetable(bridge: str, calls: BridgeCalls, *, as_json: bool) -> None:
    """When it runs, in words, and the next times on the clocks that it goes by."""
    found = calls.timetable() if calls.read().timetable else None
    if as_json:
        output.as_json(found)
    elif found is None:
        output.say(f"{bridge} runs only when somebody starts it.")
    else:
        click.echo(f"{bridge} runs {found.words}. Next, by the clocks of {found.time_zone}:")
        for moment in found.coming:
            click.echo(f"  {moment.astimezone(ZoneInfo(found.time_zone)):%a %d %b %Y, %H:%M}")


@bridges.command("remove")
@click.argument("bridge")
@yes_option
@pass_service
@failing_well
def remove(service: Service, bridge: str, yes: bool) -> None:
    """Remove a bridge: what was carried stays to be read, what was not is left out.

    \b
    Example:
      inkwell bridges remove web-shop-to-uk-books
    """
    calls = service.workspace().bridge(bridge)
    confirmed(lambda meant: calls.remove(confirm=meant), yes=yes)
    output.say(f"{bridge} is removed; what it carried is listed with: inkwell documents list --bridge {bridge}")


for _command in (pull, compare, apply):
    bridges.add_command(_command)


def _show(bridge: Bridge, as_json: bool) -> None:
    if as_json:
        output.as_json(bridge)
    else:
        output.table([bridge], COLUMNS, empty="")
