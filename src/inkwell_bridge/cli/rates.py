"""``inkwell rates``: the daily rates that documents in other currencies go by."""

from __future__ import annotations

from datetime import datetime
from itertools import islice
from pathlib import Path

import click

from inkwell_bridge.cli import output
from inkwell_bridge.cli.base import NoSuchThing, Service, failing_well, json_option, pass_service
from inkwell_bridge.cli.files import text_of
from inkwell_bridge.client.exchange_rates import ExchangeRateCalls
from inkwell_bridge.client.models import DailyRate, KeptRates

RATES: list[output.Column] = [
    ("Day", lambda row: row.day),
    ("Currency", lambda row: row.currency),
    ("Rate>", lambda row: f"{row.rate:f}"),
    ("From", lambda row: row.source),
    ("Entered by", lambda row: row.entered_by),
]
_company_option = click.option("--company", help="Whose table; the only company's, without it.")
_source_option = click.option("--from", "source", default="", help="Whose rates they are, such as a bank's.")


@click.group()
def rates() -> None:
    """Daily exchange rates of a company, for orders in other currencies than its own.

    A rate says what one unit of a currency is worth in the company's own.
    """


def _table(service: Service, company: str | None) -> tuple[str, ExchangeRateCalls]:
    """The company's name and the calls about its table."""
    workspace = service.workspace()
    names = [one.slug for one in workspace.companies()]
    if company is None and len(names) != 1:
        said = ", ".join(names) or "none yet"
        raise NoSuchThing(f"Say whose rates with --company: {said}.")
    chosen = company or names[0]
    if chosen not in names:
        raise NoSuchThing(f"There is no company {chosen} here, but {', '.join(names) or 'none yet'}.")
    return chosen, workspace.exchange_rates(chosen)


@rates.command("list")
@_company_option
@click.option("--currency", help="Only of this currency.")
@click.option("--from", "first", type=click.DateTime(["%Y-%m-%d"]), help="Only from this day on.")
@click.option("--to", "last", type=click.DateTime(["%Y-%m-%d"]), help="Only up to this day.")
@click.option("--limit", type=click.IntRange(1, 20_000), default=50, show_default=True, help="So many at most.")
@json_option
@pass_service
@failing_well
def list_(
    service: Service, company: str | None, currency: str | None, first: datetime | None, last: datetime | None,
    limit: int, as_json: bool,
) -> None:  # fmt: skip
    """List rates, the newest first.

    \b
    Example:
      inkwell rates list --company marrowby-uk --currency EUR
    """
    _, table = _table(service, company)
    filters = {"currency": currency, "first_day": first and first.date(), "last_day": last and last.date()}
    rows: list[DailyRate] = list(islice(table.all(**{name: one for name, one in filters.items() if one}), limit))
    if as_json:
        output.as_json(rows)
    else:
        output.table(rows, RATES, empty="No rates yet. Enter one with: inkwell rates set EUR 2026-10-05 0.8550")


@rates.command("set")
@click.argument("currency")
@click.argument("day", type=click.DateTime(["%Y-%m-%d"]))
@click.argument("rate")
@_company_option
@_source_option
@json_option
@pass_service
@failing_well
def set_(
    service: Service, currency: str, day: datetime, rate: str, company: str | None, source: str, as_json: bool
) -> None:  # fmt: skip
    """Enter the rate of a day; one that is there already is corrected.

    What was posted at it stays. What waited for it goes on by itself.

    \b
    Example:
      inkwell rates set EUR 2026-10-05 0.8550 --company marrowby-uk
    """
    chosen, table = _table(service, company)
    one = {"currency": currency.upper(), "day": day.date().isoformat(), "rate": rate}
    _say(table.keep([one], source=source), chosen, as_json=as_json)


@rates.command("load")
@click.argument("file", type=click.Path(path_type=Path))
@_company_option
@_source_option
@json_option
@pass_service
@failing_well
def load(service: Service, file: Path, company: str | None, source: str, as_json: bool) -> None:
    """Load a file: comma-separated, with the columns day, currency and rate; all of it or nothing.

    \b
    Example:
      inkwell rates load october.csv --from "Central bank" --company marrowby-uk
    """
    chosen, table = _table(service, company)
    _say(table.load(file.name, text_of(file).encode(), source=source), chosen, as_json=as_json)


@rates.command("remove")
@click.argument("currency")
@click.argument("day", type=click.DateTime(["%Y-%m-%d"]))
@_company_option
@pass_service
@failing_well
def remove(service: Service, currency: str, day: datetime, company: str | None) -> None:
    """Take a rate out of the table; what was posted at it stays.

    \b
    Example:
      inkwell rates remove EUR 2026-10-05 --company marrowby-uk
    """
    chosen, table = _table(service, company)
    table.remove(currency.upper(), day.date())
    output.say(f"The rate of {currency.upper()} on {day.date()} is out of the table of {chosen}.")


def _say(kept: KeptRates, company: str, *, as_json: bool) -> None:
    if as_json:
        output.as_json(kept)
        return
    output.say(f"{company}: {kept.added} new, {kept.corrected} corrected, {kept.unchanged} as they were.")
