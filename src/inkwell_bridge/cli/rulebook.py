"""``inkwell rulebook`` and ``inkwell plan``: rules as files, with no service, so that they can live in a repository."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output, proposals, rehearsals
from inkwell_bridge.cli.base import json_option
from inkwell_bridge.cli.exits import NEEDS_A_PERSON, NOT_RIGHT
from inkwell_bridge.client.models import (
    ChangedPlan,
    ExampleDiffers,
    FindingCount,
    LearntRule,
    MetValue,
    OutcomeCount,
    PlanChange,
    TotalChange,
)

_FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
reference_option = click.option(
    "--reference",
    "master_data",
    type=_FILE,
    help="The books' reference data (books-master-data-1, JSON); see: inkwell names reference",
)
books_option = click.option("--books", default="erp", show_default=True, help="The kind of books: what they can do.")


@click.group()
def rulebook() -> None:
    """Rules as files: checked, compared and tried on past documents without a service."""


@rulebook.command("check")
@click.argument("file", type=_FILE)
@reference_option
@click.option("--source-reference", type=_FILE, help="The sales side's reference data (sales-master-data-1, JSON).")
@books_option
@json_option
def check_(file: Path, master_data: Path | None, source_reference: Path | None, books: str, as_json: bool) -> None:
    """Check a rulebook: its shape, its expressions, and what both ends really have.

    Ends with status 5 where something must be mended, 1 where something is worth a look.

    \b
    Example:
      inkwell rulebook check rules.yaml --reference books.json
    """
    # Reading rules takes packages that the rest of the command line does without.
    from inkwell_bridge.cli import offline  # noqa: PLC0415

    findings = offline.checked(file, master_data, source_reference, books)
    if as_json:
        output.as_json(list(findings))
    else:
        for finding in findings:
            click.echo(f"{finding.level}: {finding.text} {finding.hint}".rstrip())
        if not findings:
            click.echo(f"{file.name} fits what it was held against.")
    levels = {str(finding.level) for finding in findings}
    if "error" in levels:
        raise click.exceptions.Exit(NOT_RIGHT)
    if "warning" in levels:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@rulebook.command("compare")
@click.argument("before", type=_FILE)
@click.argument("after", type=_FILE)
@json_option
def compare(before: Path, after: Path, as_json: bool) -> None:
    """Say in plain sentences how the second of two rulebooks differs from the first.

    \b
    Example:
      inkwell rulebook compare rules.yaml changed.yaml
    """
    from inkwell_bridge.cli import offline  # noqa: PLC0415

    changes = offline.compared(before, after)
    if as_json:
        output.as_json(list(changes))
        return
    for change in changes:
        click.echo(change.text)
    if not changes:
        click.echo("There is no difference.")


def _planned_with(command: Any) -> Any:
    """The options that a plan depends on besides rules and documents."""
    for option in reversed((
        click.option("--reference", "master_data", type=_FILE, required=True,
                     help="The books' reference data (books-master-data-1, JSON)."),
        books_option,
        click.option("--links", type=_FILE, help="Products linked to items (CSV, as inkwell links export writes it)."),
        click.option("--rates", type=_FILE, help="Daily exchange rates (CSV: day, currency, rate)."),
        click.option("--time-zone", default="UTC", show_default=True,
                     help="The company's own, such as Europe/London."),
        click.option("--country", default="", help="The company's own, such as GB."),
    )):  # fmt: skip
        command = option(command)
    return command


_DOCUMENTS = click.argument("documents", type=_FILE, nargs=-1, required=True)


@rulebook.command("rehearse")
@click.argument("before", type=_FILE)
@click.argument("after", type=_FILE)
@_DOCUMENTS
@_planned_with
@click.option("--most", type=click.IntRange(0, 10_000), default=20, show_default=True, help="Name so many documents.")
@json_option
def rehearse(
    before: Path, after: Path, documents: tuple[Path, ...], master_data: Path, books: str, links: Path | None,
    rates: Path | None, time_zone: str, country: str, most: int, as_json: bool,
) -> None:  # fmt: skip
    """Plan past documents by two rulebooks, and say what the second changes. Nothing is sent, and no service is asked.

    DOCUMENTS are files of `inkwell documents export`. Who bought is not in them: a rule that asks for the buyer finds
    nothing. Ends with status 1 where any document would become something else.

    \b
    Example:
      inkwell rulebook rehearse rules.yaml changed.yaml october.jsonl --reference books.json
    """
    from inkwell_bridge.cli import offline, offline_rehearsal  # noqa: PLC0415

    first, second = (
        offline.planning_context(
            rules, master_data, books=books, time_zone=time_zone, country=country, source="source", rates=rates
        )
        for rules in (before, after)
    )
    past = offline_rehearsal.Documents(documents)
    sums, changed = offline_rehearsal.rehearsed(first, second, past, links, most=most)
    outcomes = [OutcomeCount.model_validate(one.as_json()) for one in sums.outcomes]
    findings = [FindingCount.model_validate(one.as_json()) for one in sums.findings]
    totals = [TotalChange.model_validate(one.as_json()) for one in sums.totals]
    plans = [
        ChangedPlan(crossing=0, kind=kind, number=number, before=one.before, after=one.after, why=one.why,
                    changes=[PlanChange(at=change.at, before=change.before, after=change.after)
                             for change in one.changes])
        for kind, number, one in changed
    ]  # fmt: skip
    if as_json:
        output.as_json({"documents": sums.documents, "changed": sums.changed, "outcomes": outcomes,
                        "findings": findings, "totals": totals, "changed_documents": plans,
                        "refunds_without_order": list(past.without_order)})  # fmt: skip
    else:
        click.echo(
            f"{after.name} beside {before.name}, on {sums.documents} documents: {sums.changed or 'none'} would change."
        )
        rehearsals.show_result(outcomes, findings, totals)
        rehearsals.show_changed(plans, sums.changed)
        if orphans := past.without_order:
            more = f" and {len(orphans) - 10} more" if len(orphans) > 10 else ""
            click.echo(
                f"Not planned, for their orders are in none of the files: refunds {', '.join(orphans[:10])}{more}."
            )
    if sums.changed:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@rulebook.command("coverage")
@click.argument("rules", type=_FILE)
@_DOCUMENTS
@_planned_with
@click.option("--unmapped", is_flag=True, help="Only what no rule maps.")
@json_option
def coverage(
    rules: Path, documents: tuple[Path, ...], master_data: Path, books: str, links: Path | None, rates: Path | None,
    time_zone: str, country: str, unmapped: bool, as_json: bool,
) -> None:  # fmt: skip
    """List every value that past orders hold, and the rule that maps it, or that none does; no service is asked.

    DOCUMENTS are files of `inkwell documents export`. Ends with status 1 where something is mapped by no rule.

    \b
    Example:
      inkwell rulebook coverage rules.yaml october.jsonl --reference books.json --unmapped
    """
    from inkwell_bridge.cli import offline, offline_rehearsal  # noqa: PLC0415

    context = offline.planning_context(
        rules, master_data, books=books, time_zone=time_zone, country=country, source="source", rates=rates
    )
    orders, found = offline_rehearsal.covered(context, documents, links)
    values = [
        MetValue.model_validate({**met.as_json(), "suggestion": proposed and proposed._asdict()})
        for met, proposed in found
    ]
    lacking = [one for one in values if one.standing == "unmapped"]
    if as_json:
        output.as_json(lacking if unmapped else values)
    else:
        rehearsals.show_values(lacking if unmapped else values, empty="Nothing that no rule maps.")
        click.echo()
        click.echo(f"{orders} orders under {rules.name}; {rehearsals.mapped_by_none(len(lacking))}")
    if lacking:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@rulebook.command("propose")
@click.argument("examples", type=_FILE, nargs=-1, required=True)
@click.option(
    "--reference",
    "master_data",
    type=_FILE,
    required=True,
    help="The books' reference data (books-master-data-1, JSON).",
)
@books_option
@click.option("--time-zone", default="UTC", show_default=True, help="The company's own, such as Europe/London.")
@click.option("--country", default="", help="The company's own, such as GB.")
@click.option("--name", default="Learnt rules", show_default=True, help="What people call these rules.")
@proposals.least_option
@proposals.write_option
@proposals.most_option
@json_option
def propose(
    examples: tuple[Path, ...], master_data: Path, books: str, time_zone: str, country: str, name: str, least: int,
    file: Path | None, most: int, as_json: bool,
) -> None:  # fmt: skip
    """Learn rules from orders and what the books hold for them; nothing is sent, and no service is asked.

    EXAMPLES are files of `inkwell rulebooks propose --examples`: in each line an order, or a record of the books. Ends
    with status 1 where orders stay unexplained.

    \b
    Example:
      inkwell rulebook propose october.jsonl --reference books.json --write rules.yaml
    """
    from inkwell_bridge.cli import offline_examples  # noqa: PLC0415

    found = offline_examples.learnt(
        examples, master_data, name=name, books=books, time_zone=time_zone, country=country, least=least
    )
    if file is not None:
        proposals.write_rules(found.text, file)
    if as_json:
        output.as_json(found)
    else:
        rules = [LearntRule.model_validate(one.as_json()) for one in found.rules]
        named = [ExampleDiffers.model_validate(one.as_json()) for one in found.exceptions[:most]]
        proposals.show(rules, named, found.examples, found.explained)
    if found.exceptions:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@click.command("plan")
@click.argument("documents", type=_FILE, nargs=-1, required=True)
@click.option("--rulebook", "rules", type=_FILE, required=True, help="The rules, a YAML file.")
@click.option(
    "--reference",
    "master_data",
    type=_FILE,
    required=True,
    help="The books' reference data (books-master-data-1, JSON).",
)
@click.option("--of", "order", type=_FILE, help="The order that a refund takes back from.")
@books_option
@click.option("--links", type=_FILE, help="Products linked to items (CSV, as inkwell links export writes it).")
@click.option("--rates", type=_FILE, help="Daily exchange rates (CSV: day, currency, rate).")
@click.option(
    "--given-back",
    "refunds_before_invoice",
    type=_FILE,
    multiple=True,
    help="A refund that was carried before: with --of, before those that are planned; else before what was paid "
    "ahead is delivered. Once for each.",
)
@click.option("--time-zone", default="UTC", show_default=True, help="The company's own, such as Europe/London.")
@click.option("--country", default="", help="The company's own, such as GB.")
@click.option("--source", default="source", show_default=True, help="The name of the sales side in our marks.")
@json_option
def plan(
    documents: tuple[Path, ...],
    rules: Path,
    master_data: Path,
    order: Path | None,
    books: str,
    links: Path | None,
    rates: Path | None,
    refunds_before_invoice: tuple[Path, ...],
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
    from inkwell_bridge.cli import offline  # noqa: PLC0415

    context = offline.planning_context(
        rules, master_data, books=books, time_zone=time_zone, country=country, source=source, rates=rates
    )
    plans = offline.planned(documents, order, context, links, refunds_before_invoice)
    if as_json:
        output.as_json([{"file": str(file), **found.as_json()} for file, found in zip(documents, plans, strict=True)])
    else:
        for file, found in zip(documents, plans, strict=True):
            offline.show(file, found)
        click.echo(f"Not checked: {'; '.join(offline.not_checked(context, links))}.")
    if any(found.outcome == "hold" for found in plans):
        raise click.exceptions.Exit(NEEDS_A_PERSON)
