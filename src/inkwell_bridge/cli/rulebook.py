"""``inkwell rulebook`` and ``inkwell plan``: rules as files, with no service, so that they can live in a repository."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import json_option
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.core.books import BooksCapabilities, Payment, Reference, TradeDocument
from inkwell_bridge.core.commerce import Order, Refund, SalesReference
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan, Setting, plan_order, plan_refund
from inkwell_bridge.core.rulebook import Base, Rulebook, check, check_capabilities, check_source, read
from inkwell_bridge.core.rulebook.compare import compare as compared
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid

NOT_RIGHT = 5
_FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
reference_option = click.option(
    "--reference", type=_FILE, help="What the books call things (books-reference-1, JSON); see: inkwell names reference"
)
books_option = click.option("--books", default="erp", show_default=True, help="The kind of books: what they can do.")


@click.group()
def rulebook() -> None:
    """Rules as files: checked and compared without a service."""


@rulebook.command("check")
@click.argument("file", type=_FILE)
@reference_option
@click.option("--source-reference", type=_FILE, help="What the sales side calls things (sales-reference-1, JSON).")
@books_option
@json_option
def check_(file: Path, reference: Path | None, source_reference: Path | None, books: str, as_json: bool) -> None:
    """Check a rulebook: its shape, its expressions, and what both ends really have.

    Ends with status 5 where something must be mended, 1 where something is worth a look.

    \b
    Example:
      inkwell rulebook check rules.yaml --reference books.json
    """
    book, places = _read(file)
    known = Reference.read(_json(reference)) if reference else None
    findings = [*check_capabilities(book, _capabilities(books), reference=known, places=places)]
    findings += check(book, known, places=places) if known else ()
    if source_reference:
        sold = SalesReference.read(_json(source_reference))
        findings += check_source(book, sold, reference=known, places=places)
    _told(findings, as_json=as_json, right=f"{file.name} fits what it was held against.")


@rulebook.command("compare")
@click.argument("before", type=_FILE)
@click.argument("after", type=_FILE)
@json_option
def compare(before: Path, after: Path, as_json: bool) -> None:
    """Tell in words what is otherwise in the second of two rulebooks.

    \b
    Example:
      inkwell rulebook compare rules.yaml changed.yaml
    """
    changes = compared(_read(before)[0], _read(after)[0])
    if as_json:
        output.as_json(list(changes))
        return
    for change in changes:
        click.echo(change.text)
    if not changes:
        click.echo("They say the same.")


@click.command("plan")
@click.argument("documents", type=_FILE, nargs=-1, required=True)
@click.option("--rulebook", "rules", type=_FILE, required=True, help="The rules, a YAML file.")
@click.option("--reference", type=_FILE, required=True, help="What the books call things (books-reference-1, JSON).")
@click.option("--of", "order", type=_FILE, help="The order that a refund takes back from.")
@books_option
@click.option("--time-zone", default="UTC", show_default=True, help="The company's own, such as Europe/London.")
@click.option("--country", default="", help="The company's own, such as GB.")
@click.option("--source", default="source", show_default=True, help="The name of the sales side in our marks.")
@json_option
def plan(
    documents: tuple[Path, ...],
    rules: Path,
    reference: Path,
    order: Path | None,
    books: str,
    time_zone: str,
    country: str,
    source: str,
    as_json: bool,
) -> None:
    """Plan orders (sales-order-1, JSON) under a rulebook, with a reason for every amount. Nothing is sent.

    With --of the documents are refunds of that order. Ends with status 1 where one is held, 5 where a file is not
    right.

    \b
    Example:
      inkwell plan order.json --rulebook rules.yaml --reference books.json --time-zone Europe/London
    """
    book, _ = _read(rules)
    if book.orders is None:
        raise click.UsageError(f"{rules.name} says nothing of orders.")
    setting = Setting(
        source=source,
        rulebook=book.for_orders,
        reference=Reference.read(_json(reference)),
        capabilities=_capabilities(books),
        time_zone=time_zone,
        country=country,
    )
    try:
        plans = [_planned(file, order, setting) for file in documents]
    except DocumentInvalid as error:
        raise _NotRight(str(error)) from error
    if as_json:
        output.as_json([{"file": str(file), **found.as_json()} for file, found in zip(documents, plans, strict=True)])
    else:
        for file, found in zip(documents, plans, strict=True):
            _show(file, found)
    if any(found.outcome is Outcome.HOLD for found in plans):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


class _NotRight(click.ClickException):
    """A file that cannot be used."""

    exit_code = NOT_RIGHT


def _read(file: Path) -> tuple[Rulebook, Any]:
    try:
        return read(file.read_text("utf-8"), file=file.name, base=_beside(file))
    except RulebookInvalid as error:
        lines = [f"{finding.text} {finding.hint}".rstrip() for finding in error.findings]
        raise _NotRight("\n".join(lines)) from error
    except UnicodeDecodeError as error:
        raise _NotRight(f"{file} is not a text file in UTF-8.") from error


def _beside(file: Path) -> Base:
    """Rulebooks to build on stand beside the file, under a plain name."""

    def base(name: str) -> str | None:
        found = file.parent / name
        return found.read_text("utf-8") if Path(name).name == name and found.is_file() else None

    return base


def _json(file: Path) -> Any:
    try:
        said = json.loads(file.read_text("utf-8"))
    except ValueError as error:
        raise _NotRight(f"{file} is no JSON: {error}") from error
    # As the service hands it out, what an end calls things stands under its content.
    return said["content"] if isinstance(said, dict) and set(said) >= {"content", "checksum"} else said


def _capabilities(kind: str) -> BooksCapabilities:
    # The dialects need more packages than the rest of the command line, and take a while to load.
    from inkwell_bridge.ends.contract import kinds  # noqa: PLC0415

    found = kinds().get(kind)
    if found is None or not isinstance(found.capabilities, BooksCapabilities):
        books = sorted(name for name, one in kinds().items() if one.side == "books")
        raise click.UsageError(f"--books: expected one of {', '.join(books)}, got {kind!r}.")
    return found.capabilities


def _planned(file: Path, order: Path | None, setting: Setting) -> Plan:
    if order is None:
        return plan_order(Order.read(_json(file), file=file.name), setting)
    sold = Order.read(_json(order), file=order.name)
    return plan_refund(Refund.read(_json(file), file=file.name), sold, setting)


def _told(findings: Sequence[Finding], *, as_json: bool, right: str) -> None:
    if as_json:
        output.as_json(list(findings))
    else:
        for finding in findings:
            click.echo(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
        if not findings:
            click.echo(right)
    levels = {finding.level for finding in findings}
    if Level.ERROR in levels:
        raise click.exceptions.Exit(NOT_RIGHT)
    if Level.WARNING in levels:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


_OUTCOMES = {Outcome.CARRY: "would be carried", Outcome.HOLD: "would be held for a person"}


def _show(file: Path, found: Plan) -> None:
    click.echo(f"{file.name} {_OUTCOMES.get(found.outcome) or f'would be left out by {found.left_out_by}'}.")
    for document in found.documents:
        if isinstance(document, TradeDocument):
            _show_lines(document)
        elif isinstance(document, Payment):
            click.echo(
                f"{document.role} of {document.amount} {document.currency} on {document.account}, {document.date}"
            )
    for kept in found.withheld:
        click.echo(f"withheld {kept.amount}: {kept.text}")
    for finding in found.findings:
        click.echo(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
    reasons = list(_reasons(found))
    if reasons:
        output.table(reasons, [("Of", lambda one: one[0]), ("Why", lambda one: one[1]), ("Rule", lambda one: one[2])],
                     empty="")  # fmt: skip
    click.echo("")


def _show_lines(document: TradeDocument) -> None:
    click.echo(f"{document.role} of {document.date}, {document.gross} {document.currency}")  # type: ignore[attr-defined]
    columns: list[output.Column] = [
        ("Line", lambda line: line.text),
        ("Kind", lambda line: line.kind),
        ("Account", lambda line: line.account),
        ("Tax code", lambda line: line.tax_code),
        ("Net>", lambda line: line.net),
        ("Tax>", lambda line: line.tax),
    ]
    output.table(document.lines, columns, empty="")


def _reasons(found: Plan) -> Iterator[tuple[str, str, str]]:
    for reason in found.reasons:
        yield reason.target.removeprefix("/documents/"), reason.text, reason.rule
