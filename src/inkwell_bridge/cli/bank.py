"""``inkwell bank``: bank accounts, their statements, and what each of their lines is."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import islice
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.cli.files import NotRight, json_of
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.bank import BankAccountCalls
from inkwell_bridge.client.models import Awaited, BankAccount, BankLine

LARGEST_FILE = 50_000_000
MOST_LOOKED_THROUGH = 1000
# What may be awaited, as a person calls one.
KINDS = {"payouts": "payout", "orders": "order", "refunds": "refund", "requests": "invoice"}
ACCOUNTS: list[output.Column] = [
    ("Account", lambda row: row.slug),
    ("Name", lambda row: row.name),
    ("Number", lambda row: row.number),
    ("Currency", lambda row: row.currency),
    ("Books", lambda row: f"{row.books} {row.ledger_account}"),
    ("Statements to", lambda row: row.last_day),
    ("Open lines>", lambda row: row.open_lines),
]
LINES: list[output.Column] = [
    ("Line>", lambda row: row.id),
    ("Booked on", lambda row: row.booked_on),
    ("Amount>", lambda row: row.amount),
    ("Says", lambda row: " ".join(filter(None, (row.name, row.text, row.reference)))),
    ("Is", lambda row: ", ".join(one.number for one in row.matches) or row.note or row.state),
]
AWAITED: list[output.Column] = [
    ("Number", lambda row: row.number),
    ("Kind", lambda row: KINDS.get(row.kind, row.kind)),
    ("Due on", lambda row: row.due_on),
    ("Days late>", lambda row: max(row.days_late, 0)),
    ("Still to come>", lambda row: row.amount),
    ("On account", lambda row: row.on_account),
]
FILES: list[output.Column] = [
    ("Read", lambda row: row.read_at),
    ("File", lambda row: row.name),
    ("Lines>", lambda row: row.lines),
    ("New>", lambda row: row.new_lines),
    ("What there is to say", lambda row: row.problem or " ".join(row.notes)),
]
_account_option = click.option("--account", help="Which bank account; the only one, without it.")


@click.group()
def bank() -> None:
    """Bank accounts: their statements, and what each of the lines is: a payout, or money of an order or invoice."""


def _account(service: Service, account: str | None) -> BankAccountCalls:
    workspace = service.workspace()
    names = [one.slug for one in workspace.bank_accounts()]
    if account is None and len(names) != 1:
        said = ", ".join(names) or "none yet; add one with: inkwell bank add"
        raise NoSuchThing(f"Say which bank account with --account: {said}.")
    return workspace.bank_account(account or names[0])


@bank.command("accounts")
@json_option
@pass_service
@failing_well
def accounts(service: Service, as_json: bool) -> None:
    """List the bank accounts, and how far their statements have come.

    \b
    Example:
      inkwell bank accounts
    """
    rows: list[BankAccount] = list(service.workspace().bank_accounts())
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, ACCOUNTS, empty="No bank accounts yet. Add one with: inkwell bank add")


@bank.command("add")
@click.argument("slug")
@click.option("--name", help="What people call it; its short name, without it.")
@click.option("--books", required=True, help="The books that it belongs to.")
@click.option("--ledger-account", required=True, help="The account of the books that it is.")
@click.option("--number", required=True, help="Its number as the bank writes it: an IBAN, or the bank's own.")
@click.option("--currency", required=True, help="Its currency, such as GBP.")
@click.option("--layout", type=click.Path(path_type=Path), help="A JSON file that describes the columns of its tables.")
@pass_service
@failing_well
def add(
    service: Service, slug: str, name: str | None, books: str, ledger_account: str, number: str, currency: str,
    layout: Path | None,
) -> None:  # fmt: skip
    """Add a bank account.

    \b
    Example:
      inkwell bank add current-account --books uk-books --ledger-account 1200 \\
        --number "GB33 BUKB 2020 1555 5555 55" --currency GBP
    """
    fields: dict[str, Any] = {"layout": json_of(layout)} if layout else {}
    made = service.workspace().create_bank_account(
        slug=slug, name=name or slug, books=books, ledger_account=ledger_account, number=number,
        currency=currency.upper(), **fields,
    )  # fmt: skip
    output.say(
        f"{made.name} is account {made.ledger_account} of {made.books}. Read a statement: inkwell bank read FILE"
    )


@bank.command("layout")
@click.argument("file", type=click.Path(path_type=Path))
@_account_option
@pass_service
@failing_well
def layout_(service: Service, file: Path, account: str | None) -> None:
    """Describe how an account's tables are laid out, by a JSON file that names their columns (docs/guide, 7).

    \b
    Example:
      inkwell bank layout layout.json
    """
    made = _account(service, account).change(layout=json_of(file))
    output.say(f"Tables of {made.name} are read by {file.name} from now on.")


@bank.command("read")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@_account_option
@json_option
@pass_service
@failing_well
def read(service: Service, files: tuple[Path, ...], account: str | None, as_json: bool) -> None:
    """Read statements: ISO 20022 camt.053 or camt.054, or tables as the account's layout describes them.

    Each file is taken whole, or not at all. Lines that are known are recognised, so statements may overlap. What names
    a payout and has its amount is matched at once.

    \b
    Example:
      inkwell bank read october.xml
    """
    calls = _account(service, account)
    taken = []
    for file in files:
        if not file.is_file():
            raise NotRight(f"There is no file {file}.")
        if file.stat().st_size > LARGEST_FILE:
            raise NotRight(f"{file} has more than {LARGEST_FILE:,} bytes; load it in parts.")
        taken.append(calls.take(file.name, file.read_bytes()))
        if not as_json:
            one = taken[-1]
            output.say(f"{one.name}: {one.lines} lines, {one.new_lines} new; {one.matched} matched.")
            for note in one.notes:
                output.say(f"  {note}")
    if as_json:
        output.as_json(taken)


@bank.command("statements")
@_account_option
@click.option("--limit", type=click.IntRange(1, 10_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def statements(service: Service, account: str | None, limit: int, as_json: bool) -> None:
    """List the files that were read, the newest first, and why any was refused.

    \b
    Example:
      inkwell bank statements
    """
    rows = list(islice(_account(service, account).statements(), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, FILES, empty="No statements yet. Read one with: inkwell bank read FILE")


@bank.command("list")
@_account_option
@click.option("--state", type=click.Choice(["open", "matched", "excluded"]), default="open", show_default=True)
@click.option("--limit", type=click.IntRange(1, 100_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(service: Service, account: str | None, state: str, limit: int, as_json: bool) -> None:
    """List lines of the bank's, the oldest first.

    \b
    Example:
      inkwell bank list --state matched
    """
    rows: list[BankLine] = list(islice(_account(service, account).lines(state=state), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, LINES, empty=f"No lines that are {state}.")


@bank.command("unmatched")
@_account_option
@json_option
@pass_service
@failing_well
def unmatched(service: Service, account: str | None, as_json: bool) -> None:
    """What is open on either side: payouts and money that the bank does not have, and lines that nobody knows, by age.

    Exits with 1 where a payout should have arrived by now, or a line is open.

    \b
    Example:
      inkwell bank unmatched
    """
    calls = _account(service, account)
    found, lines = calls.unmatched(), list(calls.lines(state="open"))
    if as_json:
        output.as_json({"awaited": found.awaited, "proposals": found.proposals, "lines": lines})
    else:
        output.table(found.awaited, AWAITED, empty="All that is awaited has arrived.")
        output.say("")
        output.table(lines, LINES, empty="Every line is known.")
        _say_proposals(found.proposals, {one.crossing: one for one in found.awaited})
    # A buyer who is late is for reminders, and no fault of what crossed.
    if lines or any(one.days_late > 0 for one in found.awaited if one.kind == "payouts"):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def _say_proposals(proposals: Any, awaited: dict[int, Awaited]) -> None:
    for one in proposals:
        names = " ".join(awaited[key].number for key in one.crossings)
        lines = " ".join(map(str, one.lines))
        if one.difference:
            output.say(f"Line {lines} names {names}, and is {one.difference:+} off its amount.")
        else:
            chosen = " ".join(f"--to {awaited[key].number}" for key in one.crossings)
            output.say(f"Line {lines} may be {names}, by its amount: inkwell bank match {lines} {chosen}")


@bank.command("match")
@click.argument("lines", nargs=-1, required=True, type=int)
@click.option(
    "--to",
    "numbers",
    multiple=True,
    required=True,
    help="A payout, an order, a refund or an invoice, by its number; once for each.",
)
@click.option("--kind", type=click.Choice(list(KINDS)), help="Which kind it is, where two have one number.")
@click.option("--note", default="", help="Why.")
@_account_option
@pass_service
@failing_well
def match(
    service: Service, lines: tuple[int, ...], numbers: tuple[str, ...], kind: str | None, note: str, account: str | None
) -> None:  # fmt: skip
    """Say what lines are: one line of several payouts or invoices, or several lines of one.

    Of payouts both sides come to one sum. Money of one order or invoice may come in parts; what is more than was open
    is owed to the buyer.

    \b
    Example:
      inkwell bank match 24 --to WP-261030
    """
    calls = _account(service, account)
    awaited = [one for one in calls.unmatched().awaited if kind in (None, one.kind)]
    chosen = [_named(number, awaited, service.workspace()) for number in numbers]
    calls.match(lines, chosen, note)
    said = ", ".join(numbers)
    output.say(f"Matched: {said}. Take it back with: inkwell bank take-back {lines[0]}")


def _named(number: str, awaited: Sequence[Awaited], workspace: WorkspaceCalls) -> int:
    """The crossing of the one that is called so, or whose document in the books is; or of an order that is paid
    already, for which more came in."""
    found = [one for one in awaited if one.number == number] or [one for one in awaited if number in one.names]
    if not found:
        rows = islice(workspace.crossings(kind="orders", search=number), MOST_LOOKED_THROUGH)
        paid = [row for row in rows if row.number == number]
        if len(paid) == 1:
            return paid[0].id
        known = ", ".join(one.number for one in awaited) or "nothing is"
        raise NoSuchThing(f"{number} is not awaited on this account: {known}.")
    if len(found) > 1:
        kinds = ", ".join(f"{one.kind} ({one.bridge})" for one in found)
        raise NoSuchThing(f"{len(found)} that are awaited have the number {number}: {kinds}. Name one with --kind.")
    return found[0].crossing


@bank.command("take-back")
@click.argument("line", type=int)
@_account_option
@pass_service
@failing_well
def take_back(service: Service, line: int, account: str | None) -> None:
    """Take back what a line was matched to. What was posted of it is posted the other way round.

    \b
    Example:
      inkwell bank take-back 24
    """
    _account(service, account).take_back(line)
    output.say(f"Line {line} is open again.")


@bank.command("exclude")
@click.argument("lines", nargs=-1, required=True, type=int)
@click.option("--note", required=True, help="What they are.")
@_account_option
@pass_service
@failing_well
def exclude(service: Service, lines: tuple[int, ...], note: str, account: str | None) -> None:
    """Say that lines are nothing that is awaited, and what they are; nothing is posted of them.

    \b
    Example:
      inkwell bank exclude 25 26 --note "Rent of the mill"
    """
    changed = _account(service, account).exclude(lines, note)
    output.say(f"{changed} of {len(lines)} lines are excluded: {note}")


@bank.command("reopen")
@click.argument("lines", nargs=-1, required=True, type=int)
@_account_option
@pass_service
@failing_well
def reopen(service: Service, lines: tuple[int, ...], account: str | None) -> None:
    """Look again at lines that were excluded.

    \b
    Example:
      inkwell bank reopen 25
    """
    changed = _account(service, account).open_again(lines)
    output.say(f"{changed} of {len(lines)} lines are open again.")
