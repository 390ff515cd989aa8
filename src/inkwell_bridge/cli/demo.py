"""``inkwell demo``."""

from __future__ import annotations

import sys
from datetime import datetime
from typing import Any

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.exits import NEEDS_A_PERSON

# What a merchant does to a sale, and what each deed needs to be told.
DEEDS = {
    "cancel": (),
    "pieces": ("row", "count"),
    "price": ("row", "price"),
    "add": ("article", "title", "price"),
    "pay": ("amount",),
    "bounce": (),
    "pay-back": ("amount",),
    "take-back": ("row", "count"),
    "exchange": ("row", "count", "article", "title", "price"),
}


@click.group(invoke_without_command=True)
@click.option("--once", is_flag=True, help="Run the whole example without anyone there, compare every figure, and end.")
@click.option("--fresh", is_flag=True, help="Forget what an earlier demo left, and start again.")
@click.option("--empty", is_flag=True, help="With full shops and books, and nothing connected: for the first hour.")
@click.option("--peers", is_flag=True, help="With two real systems at the ends; ./inkwell peers start starts them.")
@click.option("--json", "as_json", is_flag=True, help="With --once: answer in JSON.")
@click.pass_context
def demo(context: click.Context, once: bool, fresh: bool, empty: bool, peers: bool, as_json: bool) -> None:
    """Start everything on this machine, with the month of an invented client.

    \b
    Examples:
      inkwell demo
      inkwell demo --empty
      inkwell demo --once
      inkwell demo --peers
      inkwell demo clock 2026-11-01T09:00:00+00:00
    """
    if context.invoked_subcommand:
        return
    # The demo needs the whole service; every other command works with the client alone.
    from inkwell_bridge.launch import demo as launcher
    from inkwell_bridge.launch.cast import Empty, October, WithPeers
    from inkwell_bridge.launch.cluster import ClusterFailed

    if empty and (once or peers):
        raise click.UsageError("--empty goes with neither --once nor --peers.")
    try:
        if once:
            _once(launcher, as_json, peers=peers)
        else:
            cast = WithPeers() if peers else Empty() if empty else October()
            launcher.serve(click.echo, cast, fresh=fresh)
    except launcher.AlreadyRunning as error:
        click.echo(str(error))
    except (ClusterFailed, RuntimeError, TimeoutError) as error:
        raise click.ClickException(str(error)) from error


def _once(launcher: Any, as_json: bool, *, peers: bool) -> None:
    from inkwell_bridge.demo.facts import expected_afterwards, expected_month, expected_of_peers, expected_payouts
    from inkwell_bridge.launch.demo_once import differences

    found = launcher.once(output.say, peers=peers)
    october = {**expected_month(), "payouts": expected_payouts(), "afterwards": expected_afterwards()}
    wrong = differences(found, expected_of_peers() if peers else october)
    if as_json:
        output.as_json({**found, "wrong": wrong})
    else:
        _report(found)
        click.echo("\n".join(wrong) if wrong else "Every figure is as the demo data says.")
    if wrong:
        raise click.exceptions.Exit(NEEDS_A_PERSON)


# What is told besides each bridge's figures.
NO_BRIDGES = frozenset({"payouts", "afterwards"})


def _report(found: dict[str, Any]) -> None:
    paid_out, later = found.get("payouts"), found.get("afterwards")
    for bridge, figures in ((name, of_one) for name, of_one in found.items() if name not in NO_BRIDGES):
        click.echo(f"\n{bridge}\n{_counted(figures)}")
        if figures["source"]:
            _sides(figures)
        second = figures["second_run"]
        click.echo(f"Run again: {second['carried']} carried; the other side holds {_kept(figures['in_the_books'])}.")
    if paid_out:
        _paid_out(paid_out)
    if later:
        _changed(later)
    click.echo("")


def _paid_out(paid_out: dict[str, Any]) -> None:
    """What the provider's payouts moved in the books, by account."""
    click.echo(f"\nPayouts: {paid_out['carried']} carried, {paid_out['held']} held; run again: "
               f"{paid_out['second_run']['carried']} carried")  # fmt: skip
    columns: list[output.Column] = [("Account", lambda row: row[0]), ("Debited>", lambda row: row[1])]
    output.table(list(paid_out["by_account"].items()), columns, empty="")
    bank = paid_out["bank"]
    on_its_way = ", ".join(f"{payout} {amount}" for payout, amount in bank["on_its_way"].items())
    click.echo(
        f"The bank: {bank['lines']} lines, {bank['matched']} matched, {len(bank['proposed'])} by hand; open: "
        f"{', '.join(bank['open'])}; on its way: {on_its_way}. Read again: {bank['again']} new."
    )
    for account, proof in paid_out["clearing"].items():
        said = "; ".join(f"{name.replace('_', ' ')} {value}" for name, value in proof.items() if name != "proves")
        click.echo(f"Account {account} {'proves' if proof['proves'] else 'does not prove'}: {said}.")
    _by_link(paid_out["requests"])


def _by_link(requests: dict[str, Any]) -> None:
    """What was asked for by link, and what came of it."""
    columns: list[output.Column] = [
        ("Invoice", lambda row: row),
        ("Asked>", lambda row: requests["asked"][row]),
        ("Paid>", lambda row: requests["paid"][row]),
        ("Its link says", lambda row: requests["pages"][row]),
        ("Open in the books>", lambda row: requests["still_open"].get(row)),
    ]
    click.echo("\nAsked for by link:")
    output.table(list(requests["asked"]), columns, empty="")
    surplus = ", ".join(f"{account} {amount}" for account, amount in requests["surplus"].items())
    click.echo(f"{requests['receipts']['posted']} receipts of {requests['receipts']['amount']}; paid beyond what was "
               f"open: {surplus}.")  # fmt: skip


def _changed(later: dict[str, Any]) -> None:
    """What was added to the books for orders that changed afterwards."""
    click.echo(f"\nChanged afterwards: {later['carried']} carried, {later['held']} held")
    columns: list[output.Column] = [
        ("Number", lambda row: row[0]),
        ("Added in the books", lambda row: "; ".join(row[1])),
    ]
    output.table(list(later["documents"].items()), columns, empty="")
    click.echo(f"Unexplained between the two sides: {later['unexplained'].get('gross')}.")


def _counted(figures: dict[str, Any]) -> str:
    holds = ", ".join(f"{number} by {cause}" for cause, number in sorted(figures["holds"].items()))
    held = f"{figures['held']} held ({holds})" if holds else f"{figures['held']} held"
    return (
        f"{figures['read']} read: {figures['carried']} carried, {figures['left_out']} left out by rule, {held}, "
        f"{figures['differs']} differing, {figures['waiting']} waiting"
    )


def _sides(figures: dict[str, Any]) -> None:
    rows = [
        ("Shop", figures["source"]),
        ("Books", figures["books"]),
        ("Books, by their own account", {**figures["in_the_books"], "count": figures["in_the_books"]["posted"]}),
    ]
    columns: list[output.Column] = [
        ("", lambda row: row[0]),
        ("Documents>", lambda row: row[1].get("count")),
        *((f"{name.capitalize()}>", lambda row, name=name: row[1].get(name)) for name in ("net", "tax", "gross")),
    ]
    output.table(rows, columns, empty="")
    _money(figures["in_the_books"])
    _ties(figures)
    rounding = figures["rounding"]
    click.echo(
        f"{rounding['documents']} documents carry a rounding line, {rounding['amount']} in all. "
        f"Unexplained between the two sides: {figures['unexplained'].get('gross')}."
    )


def _money(kept: dict[str, Any]) -> None:
    if "owed" in kept:
        click.echo(f"Owed there: {kept['owed']}; on the clearing account: {kept['clearing']}; credited: "
                   f"{kept['credit_notes']['gross']} on {kept['credit_notes']['posted']} credit notes.")  # fmt: skip
    if "receipts" not in kept:
        return
    credited, received, repaid = kept["credit_notes"], kept["receipts"], kept["repayments"]
    left = f", {kept['open']} still open" if "open" in kept else ""
    click.echo(
        f"Money there: {received['posted']} receipts of {received['amount']}{left}; {credited['posted']} credit notes "
        f"of {credited['gross']}, {repaid['posted']} repayments of {repaid['amount']}."
    )


def _ties(figures: dict[str, Any]) -> None:
    """Both sides by tax code and by tender."""
    by_code: list[output.Column] = [
        ("Tax code", lambda row: row[0]),
        *((f"{side.capitalize()} {name}>", lambda row, side=side, name=name: row[1][side][name])
          for side in ("source", "books", "difference") for name in ("net", "tax")),
    ]  # fmt: skip
    output.table(list(figures["tax_codes"].items()), by_code, empty="")
    by_tender: list[output.Column] = [
        ("Tender", lambda row: row[0]),
        *((f"{name.replace('_', ' ').capitalize()}>", lambda row, name=name: row[1][name])
          for name in ("source", "not_as_money", "not_crossed", "books", "unexplained")),
    ]  # fmt: skip
    output.table(list(figures["tenders"].items()), by_tender, empty="")


def _kept(held: dict[str, Any]) -> str:
    invoices = f"{held['posted']} posted invoices, drafts: {held['drafts']}, " if "posted" in held else ""
    return f"{invoices}contacts: {held['contacts']}"


@demo.command("reset")
def reset() -> None:
    """Put the running demo's outside systems back to the October month; the service keeps what it has.

    \b
    Example:
      inkwell demo reset
    """
    from inkwell_bridge.launch import demo as launcher

    try:
        launcher.reset()
    except RuntimeError as error:
        raise click.ClickException(str(error)) from error
    output.say("The shops, the books and the contact list hold October again, and nothing else.")


@demo.command("afterwards")
def afterwards() -> None:
    """Let customers of the running demo's web shop change their minds: each kind of change twice.

    Pieces more and fewer, another price, a cancellation, a discount, a payment that bounced, an exchange, money back.
    Run the bridge afterwards to see what becomes of it.

    \b
    Example:
      inkwell demo afterwards
    """
    from inkwell_bridge.launch import demo as launcher

    try:
        launcher.change_afterwards()
    except RuntimeError as error:
        raise click.ClickException(str(error)) from error
    output.say("14 orders of October are others now, and 6 refunds came. Now: inkwell run web-shop-to-uk-books")


@demo.command("after-sale")
@click.argument("sale")
@click.argument("deed", type=click.Choice(DEEDS))
@click.option("--row", type=int, help="Which row of the sale, by its number.")
@click.option("--count", type=int, help="How many pieces the row has from now on; or how many come back.")
@click.option("--price", help="The row's price from now on; or that of the article that is added.")
@click.option("--amount", help="How much money comes in, or goes back.")
@click.option("--article", help="The code of the article that is added.")
@click.option("--title", help="What that article is called.")
def after_sale(sale: str, deed: str, **given: Any) -> None:
    """Play the merchant of the running demo: change, cancel, take or give money, at the shop that has the sale.

    \b
    Examples:
      inkwell demo after-sale MW-10117 pieces --row 1 --count 3
      inkwell demo after-sale MW-10117 cancel
      inkwell demo after-sale LF-26-4102 take-back --row 1 --count 1
      inkwell demo after-sale MW-10160 exchange --row 2 --count 1 \\
          --article YRN-MER4-HEA --title "Merino 4-ply skein, Heather" --price 18.50
    """
    from inkwell_bridge.launch import demo as launcher

    needed = DEEDS[deed]
    for name, value in given.items():
        if (value is None) is (name in needed):
            raise click.UsageError(f"{deed} needs {_options(needed)}, and nothing else.")
    try:
        launcher.do_after_sale({"sale": sale, "does": deed, **{name: given[name] for name in needed}})
    except RuntimeError as error:
        raise click.ClickException(str(error)) from error
    output.say(f"Done to {sale}. The next run of its bridge reads it.")


def _options(needed: tuple[str, ...]) -> str:
    return " and ".join(f"--{name}" for name in needed) or "the sale"


@demo.command("remove")
@click.option("--yes", is_flag=True, help="Do not ask.")
def remove(yes: bool) -> None:
    """Remove everything that the demo keeps on this machine, its database among it.

    \b
    Example:
      inkwell demo remove
    """
    from inkwell_bridge.launch import demo as launcher

    folders = ", ".join(str(folder) for folder in launcher.kept())
    if not yes:
        if not sys.stdin.isatty():
            raise click.UsageError(f"This removes {folders}. Give --yes, if this is meant.")
        click.confirm(f"Remove {folders}?", abort=True, err=True)
    try:
        launcher.remove()
    except launcher.AlreadyRunning as error:
        raise click.ClickException(f"{error}. Stop it first.") from error
    except RuntimeError as error:
        raise click.ClickException(str(error)) from error
    output.say(f"Removed {folders}.")


@demo.command("clock")
@click.argument("moment")
def clock(moment: str) -> None:
    """Set the demo's clock to a moment; it goes on from there.

    \b
    Example:
      inkwell demo clock 2026-11-01T09:00:00+00:00
    """
    from inkwell_bridge.launch import places
    from inkwell_bridge.service.clock import set_file

    try:
        at = datetime.fromisoformat(moment)
    except ValueError as error:
        raise click.UsageError(f"Expected a moment such as 2026-11-01T09:00:00+00:00, got {moment!r}.") from error
    if at.tzinfo is None:
        raise click.UsageError("Expected an offset, such as +00:00, at the end of the moment.")
    set_file(places.home() / "clock", at)
    output.say(f"The demo's clock stands at {at.isoformat()}.")
