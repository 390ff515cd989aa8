"""Rules as files: read, checked, compared and planned with, with no service."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, TypeVar

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.files import NotRight, text_of
from inkwell_bridge.core.books import BooksCapabilities, MasterData, Payment, TradeDocument
from inkwell_bridge.core.commerce import Order, Refund, SalesMasterData
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.exchange_rates import ExchangeRate, RateFileInvalid, read_rates
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.planner import (
    LinkedItem,
    Outcome,
    Plan,
    PlanningContext,
    articles_of,
    as_a_run_would,
    plan_order,
    plan_refund,
)
from inkwell_bridge.core.rulebook import Base, Rulebook, check, check_capabilities, check_source, read
from inkwell_bridge.core.rulebook.compare import Change, compare
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.starter import still_proposed
from inkwell_bridge.core.values import Value


def checked(file: Path, master_data: Path | None, source_reference: Path | None, books: str) -> tuple[Finding, ...]:
    """What is found in a rulebook: its expressions, what the books can do, and what both ends have."""
    wrong: tuple[Finding, ...] = ()
    try:
        book, source_map = read(text_of(file), file=file.name, base=_beside(file))
    except RulebookInvalid as error:
        if error.without_unknown is None:
            return error.findings
        wrong, (book, source_map) = error.findings, error.without_unknown
    known = document_in(MasterData, master_data) if master_data else None
    findings = [*check_capabilities(book, capabilities_of(books), master_data=known, source_map=source_map)]
    findings += check(book, known, source_map=source_map) if known else ()
    if source_reference:
        sold = document_in(SalesMasterData, source_reference)
        findings += check_source(book, sold, master_data=known, source_map=source_map)
    return (*wrong, *findings, *still_proposed(text_of(file), file=file.name))


def compared(before: Path, after: Path) -> tuple[Change, ...]:
    """How the second of two rulebooks differs from the first."""
    return compare(read_rules(before)[0], read_rules(after)[0])


def planning_context(
    rules: Path, master_data: Path, *, books: str, time_zone: str, country: str, source: str, rates: Path | None = None
) -> PlanningContext:
    """All that a plan depends on besides its document."""
    book, _ = read_rules(rules)
    if book.orders is None:
        raise click.UsageError(f"{rules.name} says nothing of orders.")
    known = document_in(MasterData, master_data)
    return PlanningContext(
        source=source,
        rulebook=book.for_orders,
        master_data=known,
        capabilities=capabilities_of(books),
        time_zone=time_zone,
        country=country,
        daily_rates=_rates_in(rates, known.currency) if rates else (),
    )


def _rates_in(file: Path, own: str) -> tuple[ExchangeRate, ...]:
    """The daily rates of a file; what is wrong is said with its lines."""
    try:
        return tuple(read_rates(text_of(file), own=own, source=file.name))
    except RateFileInvalid as error:
        raise NotRight(f"{file.name}: {error}") from error


def planned(
    documents: Sequence[Path],
    order: Path | None,
    context: PlanningContext,
    links: Path | None,
    refunds_before_invoice: Sequence[Path],
) -> list[Plan]:
    """The plans of orders; with ``order``, of refunds of that. ``links`` is a table of products and their items,
    ``refunds_before_invoice`` are refunds that were carried before: before what was paid ahead is delivered, or before
    those that are planned."""
    linked = linked_items(links) if links else {}
    before = [document_in(Refund, file) for file in refunds_before_invoice]
    if order is None:
        orders = [document_in(Order, file) for file in documents]
        plans = [
            plan_order(one, _with_earlier_refunds(before, one, with_articles(one, context, linked))) for one in orders
        ]
    else:
        sold, refunds = document_in(Order, order), [document_in(Refund, file) for file in documents]
        there = with_articles(sold, context, linked)
        # Those that are planned together come after each other too.
        plans = [
            plan_refund(refund, sold, there, refunded_before=[*before, *refunds[:number]])
            for number, refund in enumerate(refunds)
        ]
    # Once for all documents: it asks about the rules, and not about any of them.
    wrong = check(context.rulebook, context.master_data)
    return [as_a_run_would(one, wrong, context.master_data) for one in plans]


Read = TypeVar("Read", bound=Value)


def document_in(shape: type[Read], file: Path) -> Read:
    """A file as a value of that shape; what is wrong is said with its place."""
    return value_of(shape, _json(file), file.name)


def value_of(shape: type[Read], said: Any, place: str) -> Read:
    """What a file says at a place, as a value of that shape.

    Raises:
        NotRight: it is none, with what was expected.
    """
    try:
        return shape.read(said, file=place)
    except DocumentInvalid as error:
        raise NotRight(str(error)) from error


def _with_earlier_refunds(refunds: Sequence[Refund], order: Order, context: PlanningContext) -> PlanningContext:
    of_order = tuple(refund for refund in refunds if refund.order_id == order.id)
    return context.model_copy(update={"refunds_before_invoice": of_order}) if of_order else context


def with_articles(order: Order, context: PlanningContext, links: Mapping[str, Sequence[LinkedItem]]) -> PlanningContext:
    if context.rulebook.items is None:
        return context
    return context.model_copy(update={"articles": articles_of(order, context.master_data, links)})


def linked_items(file: Path) -> dict[str, list[LinkedItem]]:
    """The items that a table links products to, by the product's id and its code; none for one without counterpart."""
    found: dict[str, list[LinkedItem]] = {}
    text = text_of(file, encoding="utf-8-sig")
    with io.StringIO(text, newline="") as table:
        reader = csv.DictReader(table)
        missing = {"product_id", "product_code", "item_code"} - set(reader.fieldnames or ())
        if missing:
            raise NotRight(f"{file.name} is no table of links: it has no column {sorted(missing)[0]}.")
        for row in reader:
            code = _cell(row, "item_code")
            for key in filter(None, (_cell(row, "product_id"), _cell(row, "product_code"))) if code else ():
                there = found.setdefault(key, [])
                if code != NO_COUNTERPART:
                    there.append(_linked(row, code, file, reader.line_num))
    return found


# What a table says of a product that the books have no item for.
NO_COUNTERPART = "none"


def _linked(row: Mapping[str, str | None], code: str, file: Path, line: int) -> LinkedItem:
    try:
        return LinkedItem(code=code, quantity=_cell(row, "quantity") or "1", share=_cell(row, "share") or None)
    except ValueError as error:
        raise NotRight(f"{file.name}, line {line}: expected quantity and share as numbers.") from error


def _cell(row: Mapping[str, str | None], name: str) -> str:
    """A cell; an apostrophe before a sign keeps spreadsheets from taking it for a formula."""
    said = (row.get(name) or "").strip()
    return said[1:] if said.startswith("'") else said


def bases_of(text: str, folder: Path) -> dict[str, str]:
    """The texts in a folder that rules build on, by name, the nearest first."""
    found: dict[str, str] = {}

    def base(name: str) -> str | None:
        said = _beside(folder / "rulebook.yaml")(name)
        if said is not None:
            found[name] = said
        return said

    try:
        read(text, file="rulebook.yaml", base=base)
    except RulebookInvalid as error:
        raise _no_rules(error) from error
    return found


def read_rules(file: Path) -> tuple[Rulebook, Any]:
    try:
        return read(text_of(file), file=file.name, base=_beside(file))
    except RulebookInvalid as error:
        raise _no_rules(error) from error


def _no_rules(error: RulebookInvalid) -> NotRight:
    return NotRight("\n".join(f"{finding.text} {finding.hint}".rstrip() for finding in error.findings))


def _beside(file: Path) -> Base:
    """Rulebooks to build on stand beside the file, under a plain name."""

    def base(name: str) -> str | None:
        found = file.parent / name
        return found.read_text("utf-8") if Path(name).name == name and found.is_file() else None

    return base


def _json(file: Path) -> Any:
    try:
        said = json.loads(file.read_text("utf-8"))
    except (ValueError, RecursionError) as error:
        raise NotRight(f"{file} is no JSON: {error}") from error
    # As the service hands it out, an end's reference data stands under its content.
    return said["content"] if isinstance(said, dict) and set(said) >= {"content", "checksum"} else said


def capabilities_of(kind: str) -> BooksCapabilities:
    # The dialects take a while to load.
    from inkwell_bridge.ends.contract import kinds  # noqa: PLC0415

    found = kinds().get(kind)
    if found is None or not isinstance(found.capabilities, BooksCapabilities):
        books = sorted(name for name, one in kinds().items() if one.side == "books")
        raise click.UsageError(f"--books: expected one of {', '.join(books)}, got {kind!r}.")
    return found.capabilities


NOT_CHECKED = (
    "the customer in the books",
    "whether somebody typed it into the books already",
    "whether the books themselves would take it",
)


def not_checked(context: PlanningContext, links: Path | None) -> tuple[str, ...]:
    """What a run would look at besides, and no file says."""
    items = context.rulebook.items
    by_link = items is not None and "link" in items.find_by and links is None
    return (*(["links of products (--links)"] if by_link else []), *NOT_CHECKED)


_OUTCOMES = {Outcome.CARRY: "would be carried", Outcome.HOLD: "would be held for a person"}


def show(file: Path, found: Plan) -> None:
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
    for used in found.deducted:
        click.echo(f"a voucher of {used.gross} was taxed when it was sold, with {used.tax}")
    if found.untaxed:
        click.echo(f"tax of {found.untaxed} is not due: it is of what was paid ahead and is not delivered")
    if found.open_balance is not None and found.outcome is not Outcome.LEFT_OUT:
        click.echo(f"{found.open_balance} left to pay")
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
        ("Quantity>", lambda line: output.quantity(line.quantity)),
        ("Account", lambda line: line.account),
        ("Tax code", lambda line: line.tax_code),
        ("Net>", lambda line: line.net),
        ("Tax>", lambda line: line.tax),
    ]
    output.table(document.lines, columns, empty="")


def _reasons(found: Plan) -> Iterator[tuple[str, str, str]]:
    for reason in found.reasons:
        yield reason.target.removeprefix("/documents/"), reason.text, reason.rule
