"""``inkwell bridges``."""

from __future__ import annotations

import re
from datetime import datetime
from zoneinfo import ZoneInfo

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, confirmed, failing_well, json_option, pass_service, yes_option
from inkwell_bridge.cli.repository import apply, compare, pull
from inkwell_bridge.client.bridge import BridgeCalls
from inkwell_bridge.client.models import Bridge, TriedTimetable, WholeTimetable

COLUMNS: list[output.Column] = [
    ("Bridge", lambda row: row.slug),
    ("Name", lambda row: row.name),
    ("From", lambda row: row.source),
    ("To", lambda row: row.books),
    ("Lanes", lambda row: ", ".join(lane.kind for lane in row.lanes if lane.on) or "all off"),
    ("Rulebook", lambda row: row.rulebook_in_force),
    ("Runs next", lambda row: "paused" if row.paused_at else _next(row)),
]


def _next(bridge: Bridge) -> datetime | None:
    """When the first of its timetables comes: its own, or that of a lane that is on."""
    tables = [bridge.timetable, *(lane.timetable for lane in bridge.lanes if lane.on)]
    return min((table.next_at for table in tables if table), default=None)


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
@click.argument("words", required=False, default="")
@click.option("--every", metavar="MINUTES", help="Such as 15m.")
@click.option("--daily", metavar="TIME", help="Such as 18:30, by the company's wall clock.")
@click.option("--rule", help="As recurrence rules of RFC 5545.")
@click.option("--time-zone", help="By these clocks, and not the company's; such as Europe/Berlin.")
@click.option(
    "--lane", default="", help="Of this lane alone, such as refunds; else of all that have none of their own."
)
@click.option("--off", is_flag=True, help="Only run when somebody starts it; a lane: whenever the bridge runs.")
@click.option("--try", "only_try", is_flag=True, help="Show what it would be, and change nothing.")
@json_option
@pass_service
@failing_well
def timetable(
    service: Service,
    bridge: str,
    words: str,
    every: str | None,
    daily: str | None,
    rule: str | None,
    time_zone: str | None,
    lane: str,
    off: bool,
    only_try: bool,
    as_json: bool,
) -> None:
    """Let a bridge, or one lane of it, run by itself; without a time, show when it does.

    WORDS say when: every so many minutes or hours, perhaps between two times, or at times of the day; perhaps on some
    days of the week. After a semicolon, other times for a season, or days without any.

    \b
    Examples:
      inkwell bridges timetable web-shop-to-uk-books
      inkwell bridges timetable web-shop-to-uk-books --every 15m
      inkwell bridges timetable web-shop-to-uk-books "every 15 minutes between 08:00 and 18:30 on weekdays"
      inkwell bridges timetable web-shop-to-uk-books --try \\
        "every hour; from 20 November 2026 to 31 December 2026 every 5 minutes; not on 25 December 2026"
      inkwell bridges timetable web-shop-to-uk-books --lane refunds "daily at 06:00 and 18:30"
      inkwell bridges timetable web-shop-to-uk-books --off
    """
    minutes = re.fullmatch(r"(\d{1,4})m?", every) if every else None
    if every and not minutes:
        raise click.UsageError(f"--every: expected minutes such as 15m, got {every!r}.")
    said = {
        "words": words or None,
        "every_minutes": int(minutes[1]) if minutes else None,
        "daily_at": daily,
        "rule": rule,
    }
    given = {name: value for name, value in said.items() if value is not None}
    if len(given) + off > 1:
        raise click.UsageError("Give one of WORDS, --every, --daily, --rule and --off, or none to see the timetable.")
    calls, whose = service.workspace().bridge(bridge), f"The {lane} lane of {bridge}" if lane else bridge
    if off:
        calls.remove_timetable(lane=lane)
        output.say(f"{whose} runs {_without(lane)}.")
        return
    if not given:
        _show_timetable(whose, calls, lane, as_json=as_json)
        return
    words = str(given.pop("words", ""))
    if only_try:
        found: TriedTimetable | WholeTimetable = calls.try_timetable(words, time_zone=time_zone, **given)
    else:
        found = calls.set_timetable(words, lane=lane, time_zone=time_zone, **given)
    if as_json:
        output.as_json(found)
    else:
        _print_timetable(f"{whose} would run" if only_try else f"{whose} runs", found)


def _without(lane: str) -> str:
    return "whenever the bridge does" if lane else "only when somebody starts it"


def _show_timetable(whose: str, calls: BridgeCalls, lane: str, *, as_json: bool) -> None:
    read = calls.read()
    tables = {"": read.timetable, **{one.kind: one.timetable for one in read.lanes}}
    found = calls.timetable(lane=lane) if tables.get(lane) else None
    if as_json:
        output.as_json(found)
        return
    if found is None:
        click.echo(f"{whose} runs {_without(lane)}.")
    else:
        _print_timetable(f"{whose} runs", found)
    if read.paused_at:
        click.echo(f"{read.slug} is paused since {read.paused_at:%Y-%m-%d %H:%M} UTC, so nothing starts by itself.")
    for one in read.lanes if not lane else ():
        if one.timetable:
            click.echo(f"The {one.kind} lane runs apart: {one.timetable.words}.")


def _print_timetable(who: str, found: TriedTimetable | WholeTimetable) -> None:
    """In words, and the next times on the clocks that it goes by."""
    click.echo(f"{who} {found.words}. Next, by the clocks of {found.time_zone}:")
    for moment in found.coming:
        click.echo(f"  {moment.astimezone(ZoneInfo(found.time_zone)):%a %d %b %Y, %H:%M}")


@bridges.command("pause")
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def pause(service: Service, bridge: str, as_json: bool) -> None:
    """Let nothing cross a bridge until it goes on, whatever its timetables say.

    \b
    Example:
      inkwell bridges pause web-shop-to-uk-books
    """
    found = service.workspace().bridge(bridge).pause()
    if as_json:
        output.as_json(found)
        return
    output.say(f"{bridge} is paused: nothing is read or carried. Let it go on with: inkwell bridges go-on {bridge}")


@bridges.command("go-on")
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def go_on(service: Service, bridge: str, as_json: bool) -> None:
    """Let a paused bridge go on: what it missed is made up for once, and what waited goes at once.

    \b
    Example:
      inkwell bridges go-on web-shop-to-uk-books
    """
    found = service.workspace().bridge(bridge).go_on()
    if as_json:
        output.as_json(found)
        return
    output.say(f"{bridge} goes on.")


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
