"""``inkwell trials``: one order carried for real as drafts, looked at in the books, and taken back or carried."""

from __future__ import annotations

from collections.abc import Callable

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.documents import find_document
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.holds import followed_to_end
from inkwell_bridge.cli.runs import follow
from inkwell_bridge.cli.spread import show_spread
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import Crossing, Spread

_BRIDGE = click.option("--bridge", help="Over this bridge, where two read the same order.")


@click.group()
def trials() -> None:
    """One order carried for real, as drafts in the books."""


@trials.command("send")
@click.argument("bridge")
@click.argument("order")
@click.option("--rulebook", type=int, help="The version to send it under; without it, the one in force or the newest.")
@json_option
@pass_service
@failing_well
def send(service: Service, bridge: str, order: str, rulebook: int | None, as_json: bool) -> None:
    """Make the documents of one order in the books, as drafts; read them back and show both sides. Nothing is posted.

    It needs no lane, no start date and no published rules. Ends with status 1 where it is held or differs.

    \b
    Example:
      inkwell trials send web-shop-to-uk-books MW-10006
    """
    workspace = service.workspace()
    run = follow(workspace, workspace.bridge(bridge).send_on_trial(order, rulebook=rulebook), quiet=as_json)
    if run.trouble:
        raise click.ClickException(run.trouble)
    _end(find_document(workspace, order, bridge), as_json=as_json)


@trials.command("take-back")
@click.argument("order")
@_BRIDGE
@json_option
@pass_service
@failing_well
def take_back(service: Service, order: str, bridge: str | None, as_json: bool) -> None:
    """Have the drafts of an order on trial voided at the books. A contact that was made for it stays there.

    \b
    Example:
      inkwell trials take-back MW-10006
    """
    found = _ended(service.workspace(), order, bridge, lambda workspace, one: workspace.take_back(one))
    if as_json:
        output.as_json(found)
    elif found.state == "left out":
        output.say(f"{order} is taken back: nothing of it stands in the books.")
    else:
        show_spread(found)
    if found.state != "left out":
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@trials.command("carry")
@click.argument("order")
@_BRIDGE
@json_option
@pass_service
@failing_well
def carry(service: Service, order: str, bridge: str | None, as_json: bool) -> None:
    """Let an order on trial go like any other: what stands in the books as a draft is posted, under the rules in force.

    \b
    Example:
      inkwell trials carry MW-10006
    """
    found = _ended(service.workspace(), order, bridge, lambda workspace, one: workspace.carry_for_good(one))
    _end(found, as_json=as_json)


def _ended(
    workspace: WorkspaceCalls, order: str, bridge: str | None, end: Callable[[WorkspaceCalls, int], Crossing]
) -> Spread:
    number = find_document(workspace, order, bridge).id
    end(workspace, number)
    (found,) = followed_to_end(workspace, [number])
    return found


def _end(found: Spread, *, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
    else:
        show_spread(found)
    if found.state in ("held", "differs"):
        raise click.exceptions.Exit(NEEDS_A_PERSON)
