"""``inkwell clearing``: accounts of money, and whether the books have on them what was posted from here."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal
from itertools import islice

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.rehearsals import days, followed, period
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import AccountProof, AtBank, AtProvider, ClearingProof, MoneyAccount, Standing

ACCOUNTS: list[output.Column] = [
    ("Books", lambda row: row.books),
    ("Account", lambda row: row.account),
    ("Name", lambda row: row.name),
    ("For", lambda row: ", ".join(row.purposes)),
    ("Proved to", lambda row: row.newest and row.newest.last),
    ("Proves", lambda row: "not told by these books" if not row.told else _verdict(row.newest)),
]
PROOFS: list[output.Column] = [
    ("Proof>", lambda row: row.id),
    ("Books", lambda row: row.books),
    ("Account", lambda row: row.account),
    ("First day", lambda row: row.first),
    ("Last day", lambda row: row.last),
    ("Asked at", lambda row: row.asked_at),
    ("Proves", lambda row: _verdict(row)),
]
DIFFERING: list[output.Column] = [
    ("Why", lambda row: row.why),
    ("Number", lambda row: row.number),
    ("From", lambda row: row.source_number or row.text or row.reference),
    ("Day here", lambda row: row.our_day),
    ("Here>", lambda row: row.our_amount),
    ("Day in the books", lambda row: row.books_day),
    ("In the books>", lambda row: row.books_amount),
    ("Difference>", lambda row: row.amount),
]
STANDING: list[output.Column] = [
    ("Since", lambda row: row.day),
    ("Number", lambda row: row.number or row.payout),
    ("Transaction", lambda row: row.transaction),
    ("Why", lambda row: f"{row.why} ({row.payout})" if row.payout and row.payout != row.number else row.why),
    ("Amount>", lambda row: row.amount),
]
ONE_SIDED: list[output.Column] = [
    ("Since", lambda row: row.day),
    ("Number", lambda row: row.number),
    ("Transaction", lambda row: row.transaction),
    ("Here>", lambda row: row.here),
    ("At the provider>", lambda row: row.there),
]
_books_option = click.option("--books", help="Whose account it is; needed where several books have one of that code.")
_most_option = click.option(
    "--most", type=click.IntRange(0, 1_000), default=20, show_default=True, help="Name so many items of a list."
)
_days_option = click.option("--days", "by_day", is_flag=True, help="Every day on which something moved.")


@click.group()
def clearing() -> None:
    """Accounts of money between the buyer and the bank: proved against the books."""


def _verdict(proof: object) -> str:
    state, proves = getattr(proof, "state", None), getattr(proof, "proves", None)
    if proves is None:
        return "" if state in {None, "ended"} else str(state)
    return "yes" if proves else "no"


@clearing.command("accounts")
@json_option
@pass_service
@failing_well
def accounts(service: Service, as_json: bool) -> None:
    """List the accounts of money that the rules name, and how far each is proved.

    \b
    Example:
      inkwell clearing accounts
    """
    rows = service.workspace().clearing.accounts()
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, ACCOUNTS, empty="No rules in force name an account of money yet: inkwell rulebooks publish")


@clearing.command("prove")
@click.argument("account")
@_books_option
@period
@_days_option
@_most_option
@json_option
@pass_service
@failing_well
def prove(
    service: Service, account: str, books: str | None, first: datetime | None, last: datetime | None, by_day: bool,
    most: int, as_json: bool,
) -> None:  # fmt: skip
    """Prove an account: what the books have on it, beside what was posted from here, item by item.

    The books are only read. Ends with status 1 where anything differs.

    \b
    Examples:
      inkwell clearing prove 1250 --first 2026-10-01 --last 2026-10-31
      inkwell clearing prove 1250 --books uk-books --days
    """
    workspace = service.workspace()
    calls = workspace.clearing
    asked = calls.prove(books=books or _books_of(workspace, account), account=account, **days(first, last))
    found = followed(asked, calls.proof, lambda number: _cancelled(workspace, number), "Proof", "Reading the books",
                     quiet=as_json)  # fmt: skip
    _answer(workspace, found, by_day=by_day, most=most, as_json=as_json)


def _cancelled(workspace: WorkspaceCalls, number: int) -> ClearingProof:
    workspace.clearing.cancel(number)
    return workspace.clearing.proof(number)


def _books_of(workspace: WorkspaceCalls, account: str) -> str:
    """The books that have the account, by the rules; those of the workspace where there is only one."""
    found = sorted({one.books for one in workspace.clearing.accounts() if one.account == account})
    known = found or [one.slug for one in workspace.connections(side="books")]
    if len(known) != 1:
        raise NoSuchThing(f"Say whose account {account} is with --books: {', '.join(known) or 'there are none yet'}.")
    return known[0]


@clearing.command("list")
@click.option("--books", help="Only of these books.")
@click.option("--account", help="Only of this account.")
@click.option("--limit", type=click.IntRange(1, 10_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, books: str | None, account: str | None, limit: int, as_json: bool) -> None:
    """List the proofs that were asked for, the newest first.

    \b
    Example:
      inkwell clearing list --account 1250
    """
    rows = list(islice(service.workspace().clearing.proofs(books=books or "", account=account or ""), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, PROOFS, empty="No account was proved yet: inkwell clearing prove ACCOUNT")


@clearing.command("show")
@click.argument("proof", type=int)
@_days_option
@_most_option
@json_option
@pass_service
@failing_well
def show(service: Service, proof: int, by_day: bool, most: int, as_json: bool) -> None:
    """Show a proof that was worked out before.

    \b
    Example:
      inkwell clearing show 3 --days
    """
    workspace = service.workspace()
    _answer(workspace, workspace.clearing.proof(proof), by_day=by_day, most=most, as_json=as_json)


def _answer(workspace: WorkspaceCalls, found: ClearingProof, *, by_day: bool, most: int, as_json: bool) -> None:
    if as_json:
        output.as_json(found)
    elif found.result is not None:
        known = [one for one in workspace.clearing.accounts() if one.books == found.books]
        _show(found, found.result, next((one for one in known if one.account == found.account), None), by_day, most)
    elif not found.trouble:
        output.say(f"Proof {found.id} is {found.state}: there is nothing to show yet.")
    if not found.proves:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _show(found: ClearingProof, result: AccountProof, account: MoneyAccount | None, by_day: bool, most: int) -> None:
    name = f" ({account.name})" if account and account.name else ""
    click.echo(f"Account {found.account}{name} of {found.books}, {found.first} to {found.last}, {result.currency}\n")
    output.table(list(_sums(found, result)), [("", lambda row: row[0]), ("Amount>", lambda row: row[1])], empty="")
    if by_day:
        click.echo()
        output.table(result.days, _by_day(found.columns), empty="Nothing moved in these days.")
    _show_differences(result, most)
    if result.standing is not None:
        _show_standing(result.standing, most)
    if result.at_bank is not None:
        _show_at_bank(result.at_bank)
    if result.at_provider is not None:
        _show_at_provider(result.at_provider, most)


def _sums(found: ClearingProof, result: AccountProof) -> Iterator[tuple[str, Decimal]]:
    yield "Opening, as the books have it", result.opening
    yield from ((column.capitalize(), result.amounts[column]) for column in found.columns)
    yield "Closing", result.closing
    yield "Closing in the books", result.books
    yield "The books have more", result.books - result.closing


def _by_day(columns: list[str]) -> list[output.Column]:
    def amount(column: str) -> output.Column:
        return f"{column.capitalize()}>", lambda row: row.amounts.get(column, "")

    return [("Day", lambda row: row.day), *(amount(column) for column in columns),
            ("Closing>", lambda row: row.closing), ("In the books>", lambda row: row.books),
            ("Difference>", lambda row: row.difference)]  # fmt: skip


def _show_differences(result: AccountProof, most: int) -> None:
    count = sum(one.count for one in result.differences)
    if not count and not result.unexplained:
        click.echo("\nBoth sides are the same, item by item.")
        return
    click.echo(f"\n{_items(count)} {'is' if count == 1 else 'are'} not the same on both sides:")
    for one in result.differences:
        click.echo(f"  {one.why}: {one.count}, {one.amount:,}")
    if result.unexplained:
        click.echo(f"  The books' own entries do not lead to their balance: {result.unexplained:,} are unexplained.")
    click.echo()
    output.table(result.differing[:most], DIFFERING, empty="")
    if count > most:
        output.say(f"{count - most} more; see more with --most, and all up to a thousand with --json.")


def _items(count: int) -> str:
    return "1 item" if count == 1 else f"{count:,} items"


def _show_standing(standing: Standing, most: int) -> None:
    click.echo(f"\nWhat stands there: {_items(standing.count)}, {standing.amount:,}")
    since = 0
    for one in standing.ages:
        age = f"{since} to {one.up_to} days" if one.up_to is not None else f"more than {since - 1} days"
        since = (one.up_to or 0) + 1
        if one.count:
            click.echo(f"  {age} old: {one.count}, {one.amount:,}")
    for said, amount in (("Before the first day, and not from here", standing.from_elsewhere),
                         ("Journals of other kinds", standing.other_journals),
                         ("Not accounted for", standing.not_accounted_for)):  # fmt: skip
        if amount:
            click.echo(f"  {said}: {amount:,}")
    if standing.items and most:
        click.echo()
        output.table(standing.items[:most], STANDING, empty="")
        if standing.count > most:
            output.say(f"{standing.count - most} more; see more with --most.")


def _show_at_provider(provider: AtProvider, most: int) -> None:
    if provider.trouble:
        click.echo(f"\n{provider.trouble}")
        return
    click.echo(f"\nAt {provider.provider}, in no payout made by {provider.day}:")
    sums = [*((column.capitalize(), provider.amounts[column]) for column in provider.columns),
            ("It owes", provider.balance), ("Of that stands here", provider.here)]  # fmt: skip
    differing = [("Known here alone", provider.only_here), ("Known to the provider alone", provider.only_there),
                 ("More here than there", provider.otherwise)]  # fmt: skip
    rows = [*sums, *(one for one in differing if one[1])]
    output.table(rows, [("", lambda row: row[0]), ("Amount>", lambda row: row[1])], empty="")
    if provider.items and most:
        click.echo()
        output.table(provider.items[:most], ONE_SIDED, empty="")
        if provider.count > most:
            output.say(f"{provider.count - most} more; see more with --most.")


def _show_at_bank(bank: AtBank) -> None:
    click.echo(f"\nAt the bank, by its statement up to {bank.day}:")
    sums = [
        ("Balance at the bank", bank.balance), ("In the books", bank.books),
        ("Both began with another balance", bank.opening_difference),
        ("Lines that nobody knows", bank.open_lines), ("Lines that are no payouts", bank.excluded_lines),
        ("Not accounted for", bank.not_accounted_for),
    ]  # fmt: skip
    shown = [one for place, one in enumerate(sums) if place < 2 or one[1]]
    output.table(shown, [("", lambda row: row[0]), ("Amount>", lambda row: row[1])], empty="")
