"""``inkwell payouts``: what providers paid out, what it became, and whether the bank has it."""

from __future__ import annotations

from itertools import islice
from typing import Any
from zoneinfo import ZoneInfo

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.spread import show_spread
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import Awaited, Crossing

MOST_LOOKED_THROUGH = 1000


@click.group()
def payouts() -> None:
    """What payment providers and marketplaces paid out."""


@payouts.command("list")
@click.option("--bridge", help="Only over this bridge.")
@click.option("--awaited", is_flag=True, help="Only what the bank does not have yet.")
@click.option("--limit", type=click.IntRange(1, 100_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, bridge: str | None, awaited: bool, limit: int, as_json: bool) -> None:
    """List payouts, the newest first: what each came to, its journal, and whether the bank has it.

    What the bank has is known where there is a bank account that they arrive on (inkwell bank).

    \b
    Example:
      inkwell payouts list --awaited
    """
    workspace = service.workspace()
    still = _awaited(workspace)
    rows = workspace.crossings(kind="payouts", bridge=bridge)
    found: list[Crossing] = list(islice((row for row in rows if not awaited or row.id in still), limit))
    if as_json:
        output.as_json([one.model_dump(mode="json") | {"still_to_come": _amount(still, one)} for one in found])
        return
    columns: list[output.Column] = [
        ("Payout", lambda row: row.number),
        ("Paid out", lambda row: row.placed_at and row.placed_at.astimezone(ZoneInfo(row.time_zone)).date()),
        ("Total>", lambda row: row.gross),
        ("", lambda row: row.currency),
        ("State", lambda row: row.state),
        ("Why", lambda row: row.cause or row.trouble),
        ("Journal", lambda row: row.in_books.number if row.in_books else ""),
        ("Still to come>", lambda row: still[row.id].amount if row.id in still else ""),
    ]
    output.table(found, columns, empty="No payouts. Their bridge carries them: inkwell run BRIDGE")


@payouts.command("show")
@click.argument("number")
@click.option("--bridge", help="Over this bridge, where two have a payout of that number.")
@json_option
@pass_service
@failing_well
def show(service: Service, number: str, bridge: str | None, as_json: bool) -> None:
    """Show one payout: its entries, its journal with the reason of every amount, and its lines at the bank.

    \b
    Example:
      inkwell payouts show WP-261008
    """
    workspace = service.workspace()
    rows = workspace.crossings(kind="payouts", search=number, bridge=bridge)
    found = [row for row in islice(rows, MOST_LOOKED_THROUGH) if row.number == number]
    if len(found) != 1:
        bridges = ", ".join(sorted(row.bridge for row in found))
        raise NoSuchThing(f"{len(found)} payouts have that number; name one with --bridge: {bridges}." if found
                          else f"There is no payout {number} here.")  # fmt: skip
    spread = workspace.crossing(found[0].id)
    if as_json:
        output.as_json(spread)
        return
    show_spread(spread)
    still = _awaited(workspace).get(found[0].id)
    if still is not None:
        click.echo(f"\nThe bank does not have it yet: {still.amount} {still.currency} due on {still.due_on}.")


def _awaited(workspace: WorkspaceCalls) -> dict[int, Awaited]:
    """What the bank accounts still wait for, by the number of the payout's document."""
    accounts = [one.slug for one in workspace.bank_accounts()]
    return {one.crossing: one for slug in accounts for one in workspace.bank_account(slug).unmatched().awaited}


def _amount(still: dict[int, Awaited], row: Crossing) -> Any:
    return str(still[row.id].amount) if row.id in still else None
