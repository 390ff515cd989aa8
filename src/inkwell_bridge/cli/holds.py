"""``inkwell holds``: what waits for a person, what mending it would free, and letting it go."""

from __future__ import annotations

import time
from itertools import islice
from pathlib import Path
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.documents import COLUMNS, find_document
from inkwell_bridge.cli.exits import NEEDS_A_PERSON
from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.client.models import Spread

# Of more than so many nobody reads what became of each; they go on by themselves.
MOST_FOLLOWED, LONGEST_WAIT_SECONDS = 50, 60.0
GROUPS: list[output.Column] = [
    ("Cause", lambda row: row.cause),
    ("What", lambda row: f"{row.aspect} {row.value}".strip()),
    ("Lane", lambda row: row.lane),
    ("Documents>", lambda row: row.count),
    ("Gross>", lambda row: ", ".join(f"{output.shown(amount)} {currency}" for currency, amount in row.amounts.items())),
    ("Oldest", lambda row: row.oldest.number),
    ("Bridge", lambda row: row.bridge),
]
CONTACTS: list[output.Column] = [
    ("Code", lambda row: row.code or row.id),
    ("Name", lambda row: row.name),
    ("E-mail", lambda row: row.email),
    ("Postcode", lambda row: row.postcode),
    ("Why", lambda row: row.reason),
]


@click.group()
def holds() -> None:
    """What waits for a person."""


@holds.command("list")
@click.option("--bridge", default="", help="Only over this bridge.")
@click.option("--cause", default="", help="Only by this cause.")
@json_option
@pass_service
@failing_well
def list_holds(service: Service, bridge: str, cause: str, as_json: bool) -> None:
    """List held documents by cause and by the value that is to blame, with the money behind each.

    \b
    Example:
      inkwell holds list
    """
    rows = service.workspace().holds(bridge=bridge, cause=cause)
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, GROUPS, empty="Nothing is held.")


@holds.command("preview")
@click.argument("bridge")
@click.argument("cause")
@click.option("--value", help="Only of this value, such as a tax class.")
@click.option("--file", "file", type=click.Path(exists=True, dir_okay=False, path_type=Path),
              help="Under the rules in this file; else under those in force.")  # fmt: skip
@click.option("--version", "version", type=int, help="Under this version of the rules.")
@click.option("--link", "links", multiple=True, metavar="ARTICLE=ITEM",
              help="As if this article were linked to that item of the books; can be repeated.")  # fmt: skip
@json_option
@pass_service
@failing_well
def preview(
    service: Service,
    bridge: str,
    cause: str,
    value: str | None,
    file: Path | None,
    version: int | None,
    links: tuple[str, ...],
    as_json: bool,
) -> None:
    """Say how many of what is held by a cause would go under changed rules or links; nothing is sent.

    \b
    Examples:
      inkwell holds preview web-shop-to-uk-books tax-class-unmapped --file rulebook.yaml
      inkwell holds preview web-shop-to-uk-books item-unclear --link SOCK-FENLAND=SOCK-FEN
    """
    if file and version:
        raise click.UsageError("Give --file or --version, and not both.")
    given: dict[str, Any] = {"value": value, "version": version, "text": file.read_text("utf-8") if file else None}
    said = {name: one for name, one in given.items() if one is not None}
    if links:
        said["links"] = [_linked(one) for one in links]
    found = service.workspace().preview_holds(bridge=bridge, cause=cause, **said)
    if as_json:
        output.as_json(found)
        return
    beyond = "" if found.tried == found.of else f", the first of {found.of}"
    left_out = f", {found.left_out} left out" if found.left_out else ""
    click.echo(f"{found.tried} tried{beyond}: {found.would_go} would go{left_out}.")
    for again in found.again:
        click.echo(f"  {again.count} would be held again: {again.text}")


def _linked(given: str) -> dict[str, Any]:
    article, between, item = given.partition("=")
    if not (article.strip() and between and item.strip()):
        raise click.UsageError(f"Give --link as ARTICLE=ITEM; this is {given!r}.")
    return {"key": article.strip(), "targets": [{"id": item.strip()}]}


@holds.command("contact")
@click.argument("number")
@click.argument("contact", required=False)
@click.option("--bridge", help="Over this bridge, where two read the same order.")
@json_option
@pass_service
@failing_well
def contact(service: Service, number: str, contact: str | None, bridge: str | None, as_json: bool) -> None:
    """Show which contacts of the books the buyer of a held document may be; with CONTACT, its code or id, choose it.

    All documents of that buyer that wait for it go, and later ones go to the same contact.

    \b
    Examples:
      inkwell holds contact MW-10042
      inkwell holds contact MW-10042 C-0104
    """
    workspace = service.workspace()
    found = find_document(workspace, number, bridge)
    if contact is None:
        choice = workspace.contact_choice(found.id)
        if as_json:
            output.as_json(choice)
            return
        told = (choice.company, choice.name, choice.email, choice.tax_number, choice.postcode)
        click.echo(f"{choice.number} is of {', '.join(one for one in told if one) or 'nobody named'}.")
        never = "" if choice.loaded else " The contacts of the books were never loaded."
        output.table(choice.offered, CONTACTS, empty=f"No contact is like this buyer.{never}")
        return
    let_go = workspace.choose_contact(found.id, contact)
    followed = followed_to_end(workspace, let_go.crossings[:MOST_FOLLOWED])
    if as_json:
        output.as_json({"released": let_go.released, "documents": followed})
    else:
        output.table(followed, COLUMNS, empty="")
    if any(row.state in ("held", "differs") for row in followed):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


DECISIONS = ("leave out", "by hand", "accept difference", "keep posted", "post the difference", "keep theirs",
             "put ours back", "credit and reissue", "take back")  # fmt: skip


@holds.command("decide")
@click.argument("number")
@click.argument("kind", type=click.Choice(DECISIONS))
@click.option("--note", default="", help="Why; it is kept, and shown.")
@click.option("--bridge", help="Over this bridge, where two read the same order.")
@json_option
@pass_service
@failing_well
def decide(service: Service, number: str, kind: str, note: str, bridge: str | None, as_json: bool) -> None:
    """Decide for one document that is held, instead of mending its cause.

    It is left out; or was settled in the books by hand; or its difference is accepted, and goes where a penny would. Of
    one that changed after it was posted, what was posted is kept, or the difference is posted. Where somebody changed
    in the books what was posted, and the order changed too: keep theirs posts what the order changed by and leaves
    that, put ours back posts all that the books lack of the order. Of what was found changed, voided or deleted there:
    put ours back posts what the books lack of it, credit and reissue takes it off as it stands and makes it anew.

    \b
    Examples:
      inkwell holds decide MW-10076 "leave out" --note "Entered in the dinar books."
      inkwell holds decide MW-10098 "accept difference" --note "Agreed with the accountant."
      inkwell holds decide MW-10003 "keep theirs" --note "The accountant moved the carriage."
      inkwell holds decide MW-10009 "put ours back" --note "It was voided by mistake."
      inkwell holds decide MW-10076 "take back"
    """
    workspace = service.workspace()
    found = find_document(workspace, number, bridge)
    if kind == "take back":
        done = workspace.take_decision_back(found.id)
    elif not note.strip():
        raise click.UsageError("Give the reason with --note.")
    else:
        done = workspace.decide(found.id, kind, note)
    (became,) = followed_to_end(workspace, [done.id])
    if as_json:
        output.as_json(became)
    else:
        output.table([became], COLUMNS, empty="")
    if became.state in ("held", "differs"):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


@holds.command("release")
@click.option("--cause", help="All that are held by this cause.")
@click.option("--value", help="Only of this value, such as a tax class; with --cause and --bridge.")
@click.option("--order", "orders", multiple=True, help="This order; can be repeated.")
@click.option("--bridge", help="Over this bridge, where two read the same order.")
@click.option("--no-wait", is_flag=True, help="Do not wait for what becomes of them.")
@json_option
@pass_service
@failing_well
def release(
    service: Service,
    cause: str | None,
    value: str | None,
    orders: tuple[str, ...],
    bridge: str | None,
    no_wait: bool,
    as_json: bool,
) -> None:
    """Try held documents again, under the rules in force now, and say what became of each.

    Ends with status 1 where one is held again.

    \b
    Examples:
      inkwell holds release --cause tax-class-unmapped
      inkwell holds release --order MW-10031
    """
    if bool(cause) == bool(orders):
        raise click.UsageError("Give either --cause or --order.")
    if value and not (cause and bridge):
        raise click.UsageError("--value needs --cause and --bridge.")
    workspace = service.workspace()
    if cause and bridge and value:
        let_go = workspace.release_holds(bridge=bridge, cause=cause, value=value)
        chosen, number = let_go.crossings[:MOST_FOLLOWED], let_go.released
    elif cause:
        chosen = [row.id for row in islice(workspace.crossings(cause=cause, bridge=bridge), MOST_FOLLOWED)]
        number = workspace.release(cause=cause, bridge=bridge)
    else:
        chosen = [find_document(workspace, one, bridge).id for one in orders]
        number = workspace.release(crossings=chosen)
    followed = [] if no_wait or not number else followed_to_end(workspace, chosen)
    if as_json:
        output.as_json({"released": number, "documents": followed})
    else:
        output.say(f"{number} released.")
        if followed:
            output.table(followed, COLUMNS, empty="")
        if len(followed) < number and not no_wait:
            output.say("Others go on by themselves: inkwell documents list --state waiting")
    if any(row.state in ("held", "differs") for row in followed):
        raise click.exceptions.Exit(NEEDS_A_PERSON)


def followed_to_end(workspace: WorkspaceCalls, numbers: list[int]) -> list[Spread]:
    """What these came to, as soon as none of them waits any more, or as they are after a while."""
    until = time.monotonic() + LONGEST_WAIT_SECONDS
    rows = {number: workspace.crossing(number) for number in numbers}
    while (waiting := [number for number, row in rows.items() if row.state == "waiting"]) and time.monotonic() < until:
        time.sleep(0.5)
        # Those that have come to their end are not asked for again.
        rows |= {number: workspace.crossing(number) for number in waiting}
    return list(rows.values())
