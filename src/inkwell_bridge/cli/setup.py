"""``inkwell setup``, ``inkwell try`` and ``inkwell adopt``: the first hours of a bridge."""

from __future__ import annotations

from datetime import datetime

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.runs import follow, show
from inkwell_bridge.cli.spread import show_content
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
            click.echo(f"{place}. {MARKS[step.state]}  {step.title}{'' if step.needed else '  (optional)'}")
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
@click.option("--reasons", is_flag=True, help="Also the reason of every account, code and date, with its rule.")
@json_option
@pass_service
@failing_well
def try_(service: Service, bridge: str, order: str, rulebook: int | None, reasons: bool, as_json: bool) -> None:
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
        _show(tried, reasons=reasons)
    if tried.outcome == "hold":
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _show(tried: Tried, *, reasons: bool) -> None:
    said = {
        "carry": "would be carried",
        "hold": "would be held",
        "left out": f"would be left out by {output.rule(tried.left_out_by or '')}",
        "adopt": "would be adopted as the books have it",
    }
    outcome = said.get(tried.outcome, tried.outcome)
    click.echo(
        f"{tried.number}, {tried.order['total']} {tried.order['currency']}: {outcome}, by version {tried.rulebook} of "
        "the rules."
    )
    for place, document in enumerate(tried.documents):
        click.echo(f"\n{document['role'].capitalize()} of {document['date']}")
        show_content(document, place, tried.reasons, role=document["role"])
    if tried.open_balance is not None:
        click.echo(f"\nLeft to pay: {tried.open_balance} {tried.order['currency']}")
    if reasons:
        columns: list[output.Column] = [
            ("In the plan", lambda row: row["target"]),
            ("Why", lambda row: row["text"]),
            ("Rule", lambda row: row["rule"]),
        ]
        output.table(tried.reasons, columns, empty="No reasons.")
        asked = [(one.target, step) for one in tried.steps for step in one.steps if len(one.steps) > 1]
        if asked:
            click.echo("\nRules asked, in their order:")
            output.table(asked, _STEPS, empty="")
    for finding in tried.findings:
        click.echo(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
    click.echo(f"Not checked: {'; '.join(tried.not_checked)}.")


_STEPS: list[output.Column] = [
    ("In the plan", lambda row: row[0]),
    ("Asked by", lambda row: row[1].by),
    ("Met", lambda row: row[1].met or "–"),
    ("Answer", lambda row: row[1].gave or "none"),
]


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
    elif run.state == "failed":
        show(run)
    else:
        click.echo(f"{run.counts.read} documents of this bridge stand in the books: {run.counts.adopted} adopted, "
                   f"{run.counts.unchanged} known already. Nothing was posted.")  # fmt: skip
        if run.trouble:
            click.echo(run.trouble)
    if run.state == "failed":
        raise click.exceptions.Exit(NEEDS_A_PERSON)
