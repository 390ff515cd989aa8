"""``inkwell opening``: opening balances when a bridge takes over."""

from __future__ import annotations

from collections.abc import Iterator

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.client.models import Opening


@click.group()
def opening() -> None:
    """Opening balances at the cut-over: deposits, gift cards, vouchers and clearing accounts."""


@opening.command("enter")
@click.argument("bridge")
@click.option("--against", required=True, help="The account that the balances stood on before, or come out of.")
@click.option("--deposits", help="Owed for what was paid ahead.")
@click.option("--gift-cards", help="Owed on gift cards.")
@click.option("--vouchers", help="Owed on vouchers, without the tax that was due when they were sold.")
@click.option("--clearing", multiple=True, metavar="ACCOUNT=AMOUNT", help="What a provider still has to pay out.")
@json_option
@pass_service
@failing_well
def enter(
    service: Service,
    bridge: str,
    against: str,
    deposits: str | None,
    gift_cards: str | None,
    vouchers: str | None,
    clearing: tuple[str, ...],
    as_json: bool,
) -> None:
    """Enter the balances: they are posted as one journal, dated on the bridge's start date. Posted, they stay.

    \b
    Example:
      inkwell opening enter web-shop-to-uk-books --against 3000 \\
        --gift-cards 120.00 --deposits 85.00 --clearing 1250=40.00
    """
    owed = {"deposits": deposits, "gift cards": gift_cards, "vouchers": vouchers}
    balances = [{"of": name, "amount": amount} for name, amount in owed.items() if amount]
    balances += list(_clearing(clearing))
    if not balances:
        raise click.UsageError("Give one balance at least, such as --gift-cards 120.00.")
    _show(service.workspace().bridge(bridge).enter_opening(against=against, balances=balances), as_json)


def _clearing(given: tuple[str, ...]) -> Iterator[dict[str, str]]:
    for one in given:
        account, equals, amount = one.partition("=")
        if not equals:
            raise click.UsageError(f"--clearing: expected an account and an amount such as 1250=40.00, got {one!r}.")
        yield {"of": "clearing", "account": account, "amount": amount}


@opening.command("show")
@click.argument("bridge")
@json_option
@pass_service
@failing_well
def show(service: Service, bridge: str, as_json: bool) -> None:
    """Show the opening balances of a bridge, and what became of them.

    \b
    Example:
      inkwell opening show web-shop-to-uk-books
    """
    _show(service.workspace().bridge(bridge).opening(), as_json)


def _show(found: Opening, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
        return
    columns: list[output.Column] = [
        ("Of", lambda row: row.of),
        ("Account", lambda row: row.account),
        (f"{found.currency}>", lambda row: row.amount),
    ]
    output.table(found.balances, columns, empty="")
    journal = f" as {found.books_number}" if found.books_number else ""
    output.say(f"As of {found.opened_on}, against {found.against}: {found.state}{journal}.")
    for finding in found.findings:
        output.say(f"{finding.level}: {finding.text} {finding.hint}")
