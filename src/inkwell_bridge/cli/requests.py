"""``inkwell requests``: invoices that buyers are asked to pay by a link."""

from __future__ import annotations

import sys
import time
from itertools import islice

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client.models import PaymentRequest
from inkwell_bridge.client.requests import RequestCalls

STANDINGS = ("waiting", "open", "part paid", "paid", "cancelled")
LOOK_AGAIN_SECONDS, LONGEST_WAIT_SECONDS = 0.3, 60.0
COLUMNS: list[output.Column] = [
    ("Request>", lambda row: row.id),
    ("Invoice", lambda row: row.invoice),
    ("Of", lambda row: row.invoiced_on),
    ("Asked>", lambda row: row.amount),
    ("Paid>", lambda row: row.paid),
    ("", lambda row: row.currency),
    ("Standing", lambda row: row.standing),
    ("Why", lambda row: row.cause),
    ("Link", lambda row: row.link),
]
_no_wait = click.option("--no-wait", is_flag=True, help="Ask for it and go.")


@click.group()
def requests() -> None:
    """Invoices of the books that buyers are asked to pay by a link."""


@requests.command("list")
@click.option("--bridge", default="", help="Only over this bridge.")
@click.option("--standing", type=click.Choice(STANDINGS), help="Only those that stand so.")
@click.option("--limit", type=click.IntRange(1, 100_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, bridge: str, standing: str | None, limit: int, as_json: bool) -> None:
    """List requests, the newest first: what is asked, what is paid, and the link that the buyer is given.

    \b
    Examples:
      inkwell requests list
      inkwell requests list --standing "part paid"
    """
    rows = list(islice(service.workspace().requests.all(bridge=bridge, standing=standing or ""), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, COLUMNS, empty="No requests. A bridge's lane makes them, or: inkwell requests make BRIDGE "
                                          "INVOICE")  # fmt: skip


@requests.command("show")
@click.argument("number", type=int)
@json_option
@pass_service
@failing_well
def show(service: Service, number: int, as_json: bool) -> None:
    """Show one request.

    \b
    Example:
      inkwell requests show 3
    """
    _say(service.workspace().requests.read(number), as_json=as_json)


@requests.command("make")
@click.argument("bridge")
@click.argument("invoice")
@_no_wait
@json_option
@pass_service
@failing_well
def make(service: Service, bridge: str, invoice: str, no_wait: bool, as_json: bool) -> None:
    """Ask for an invoice of the books by its number, whatever the conditions of the rules say.

    One that was cancelled is taken up again, under the same link. Ends with status 1 where it is held.

    \b
    Example:
      inkwell requests make weirgate-to-uk-books SI-09004
    """
    calls = service.workspace().requests
    _followed(calls, calls.make(bridge=bridge, invoice=invoice), no_wait=no_wait, as_json=as_json)


@requests.command("cancel")
@click.argument("number", type=int)
@click.option("--note", default="", help="Why, for whoever looks later.")
@_no_wait
@json_option
@pass_service
@failing_well
def cancel(service: Service, number: int, note: str, no_wait: bool, as_json: bool) -> None:
    """Ask for it no more: its link says so at once, and the provider is told. What was paid stays paid.

    \b
    Example:
      inkwell requests cancel 3 --note "Paid by bank transfer"
    """
    calls = service.workspace().requests
    _followed(calls, calls.cancel(number, note), no_wait=no_wait, as_json=as_json)


def _followed(calls: RequestCalls, request: PaymentRequest, *, no_wait: bool, as_json: bool) -> None:
    """Wait until it stands at the provider as it was asked for, or is held, and say how it stands."""
    until = time.monotonic() + LONGEST_WAIT_SECONDS
    while request.under_way and not no_wait and time.monotonic() < until:
        time.sleep(LOOK_AGAIN_SECONDS)
        request = calls.read(request.id)
    _say(request, as_json=as_json)
    # The request stands all the same, so this comes after it was shown: a script sees both.
    if request.crossing_state in {"held", "differs"}:
        sys.exit(NEEDS_A_PERSON)


def _say(request: PaymentRequest, *, as_json: bool) -> None:
    if as_json:
        output.as_json(request)
        return
    output.table([request], COLUMNS, empty="")
    if request.request:
        click.echo(f"At the provider: {request.request}. Opened {request.opened} times.")
    if request.wish:
        by = f" by {request.wished_by}" if request.wished_by else ""
        note = f": {request.note}" if request.note else ""
        click.echo(f"{request.wish.capitalize()} by hand{by}{note}")
    if request.under_way:
        click.echo("It is on its way to the provider.")
    elif request.crossing_state in {"held", "differs"}:
        click.echo(f"It needs somebody: inkwell documents show {request.invoice} --bridge {request.bridge}")
