"""``inkwell setup``, ``inkwell try`` and ``inkwell adopt``: the first hours of a bridge."""

from __future__ import annotations

from datetime import datetime

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.runs import follow, show
from inkwell_bridge.client.models import Tried

MARKS = {"done": "done", "open": "open", "attention": "look"}


@click.command()
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def setup(service: Service, bridge: str, as_json: bool) -> None:
    """Show how far a bridge's set-up is, in the order of the work.

    Ends with status 1 while a step without which nothing runs is missing.

    \b
    Example:
      inkwell setup web-shop-to-uk-books
    """
    steps = service.workspace().bridge(bridge).setup()
    if as_json:
        output.as_json(steps)
    else:
        for place, step in enumerate(steps, start=1):
            click.echo(
                f"{place}. {MARKS[step.state]}  {step.title}{'' if step.needed else '  (an expert may leave it)'}"
            )
            click.echo(f"         {step.text}")
            if step.state != "done":
                click.echo(f"         {step.why}")
    if any(step.needed and step.state != "done" for step in steps):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@click.command("start-date")
@click.argument("bridge")
@click.argument("day", type=click.DateTime(["%Y-%m-%d"]))
@json_option
@pass_service
@failing_well
def start_date(service: Service, bridge: str, day: datetime, as_json: bool) -> None:
    """Choose the day from which orders cross; earlier ones are adopted or left out.

    \b
    Example:
      inkwell start-date web-shop-to-uk-books 2026-10-01
    """
    found = service.workspace().bridge(bridge).change(starts_on=day.date())
    if as_json:
        output.as_json(found)
    else:
        output.say(f"{found.name} carries orders placed from {found.starts_on} on.")


@click.command("try")
@click.argument("bridge")
@click.argument("order")
@click.option("--rulebook", type=int, help="Number of the version to try it by; the one in force, without it.")
@json_option
@pass_service
@failing_well
def try_(service: Service, bridge: str, order: str, rulebook: int | None, as_json: bool) -> None:
    """Show what one order would become, with the reason of every amount; nothing is sent.

    Ends with status 1 where it would be held.

    \b
    Example:
      inkwell try web-shop-to-uk-books MW-10006
    """
    tried = service.workspace().bridge(bridge).try_order(order, rulebook=rulebook)
    if as_json:
        output.as_json(tried)
    else:
        _show(tried)
    if tried.outcome == "hold":
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _show(tried: Tried) -> None:
    said = {
        "carry": "would be carried",
        "hold": "would be held",
        "left out": f"would be left out by {tried.left_out_by}",
        "adopt": "would be adopted as the books have it",
    }
    outcome = said.get(tried.outcome, tried.outcome)
    click.echo(
        f"{tried.number}, {tried.order['total']} {tried.order['currency']}, {outcome} by version {tried.rulebook}."
    )
    for document in tried.documents:
        if "amount" in document:
            money = f"{document['amount']} {document['currency']} on {document['account']}"
            click.echo(f"{document['role']} of {money}, {document['date']}")
            continue
        click.echo(f"{document['role']} of {document['date']}")
        columns: list[output.Column] = [
            ("Line", lambda row: row["text"]),
            ("Quantity>", lambda row: output.quantity(row["quantity"])),
            ("Account", lambda row: row["account"]),
            ("Tax code", lambda row: row["tax_code"]),
            ("Net>", lambda row: row["net"]),
            ("Tax>", lambda row: row["tax"]),
        ]
        output.table(document["lines"], columns, empty="No lines.")
    if tried.open_balance is not None:
        click.echo(f"{tried.open_balance} {tried.order['currency']} left to pay")
    for reason in tried.reasons:
        click.echo(f"  {reason['target']}: {reason['text']}")
    for finding in tried.findings:
        click.echo(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
    click.echo(f"Not checked: {'; '.join(tried.not_checked)}.")


@click.command()
@click.argument("bridge")
@click.option("--order", help="Only this order: let it be the document of --books-id.")
@click.option("--books-id", help="The books' id of what somebody typed in.")
@json_option
@pass_service
@failing_well
def adopt(service: Service, bridge: str, order: str | None, books_id: str | None, as_json: bool) -> None:
    """Adopt what the books hold already, so that it is not posted again.

    Without --order it goes over all that stands in the books under our mark: for after a restore from an
    old backup, before anything else runs.

    \b
    Examples:
      inkwell adopt web-shop-to-uk-books
      inkwell adopt web-shop-to-uk-books --order MW-10006 --books-id 17
    """
    if bool(order) != bool(books_id):
        raise click.UsageError("--order and --books-id go together.")
    workspace = service.workspace()
    if order and books_id:
        found = [one for one in workspace.crossings(bridge=bridge, search=order) if one.number == order]
        if not found:
            raise NoSuchThing(f"{bridge} has read no order {order} yet.")
        adopted = workspace.adopt(found[0].id, books_id)
        if as_json:
            output.as_json(adopted)
        else:
            output.say(f"{order} is {adopted.documents[0].books_number or books_id} now; nothing is posted for it.")
        return
    run = follow(workspace, workspace.bridge(bridge).adopt(), quiet=as_json)
    if as_json:
        output.as_json(run)
    else:
        show(run)
    if run.state == "failed":
        raise click.exceptions.Exit(NEEDS_A_PERSON)
