"""The report of a month: all that is frozen when it is closed, and all that is handed over.

A published format (``month-report``). It names no buyer: documents are known by their numbers.
"""

from __future__ import annotations

import datetime
import operator
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field

from inkwell_bridge.core.closing.open_items import AccountIfAny, OpenItem
from inkwell_bridge.core.closing.seal import Seal
from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.proof import SheetRow, Totals
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class ReportCompany(Value):
    """Whose month it is."""

    client: Text
    slug: Code
    name: Text
    country: Text
    currency: Code
    time_zone: Code


class ReportBridge(Value):
    """A bridge to the books of the company."""

    slug: Code
    name: Text
    sales_side: Text
    books: Text


class ReportPart(Value):
    """The part of a difference that one reason accounts for; see ``core.proof.Part``."""

    reason: Text
    detail: Text = ""
    documents: int | None = None
    settled: bool
    totals: Totals


class ReportRow(Value):
    """One row of the sheet: both sides, the difference, and its parts, which add up to it."""

    section: Text = ""
    currency: Text = ""
    bridge: Text = ""
    day: datetime.date | None = None
    tax_code: Text = ""
    tender: Text = ""
    source: Totals
    books: Totals
    difference: Totals
    parts: tuple[ReportPart, ...] = ()
    unexplained: Totals
    ties: bool


class ReportAccountRow(ReportRow):
    """One account of the books ``connection``: what the rules put on it of the source's amounts, and what stands there;
    net of sales and refunds (``section`` is ``both``), or money (``money``) that pays or gives back. ``used_for`` are
    the roles that the rules give it there."""

    connection: Code
    account: Text
    name: Text = ""
    used_for: tuple[Text, ...] = ()


class DifferingDocuments(Value):
    """How many documents differ in the books for one reason, whether an amount differs or not."""

    reason: Text
    documents: int


class AcceptedItem(Value):
    """An open item that a person accepted, with what they said of it."""

    item: OpenItem
    by: Text
    at: Moment
    note: Text


class ReportDocument(Value):
    """A source document that a difference of the month is a sum of."""

    reason: Text
    detail: Text = ""
    kind: Code
    number: Text
    bridge: Code
    day: datetime.date
    currency: Text
    table: Text
    tax_code: Text = ""
    tender: Text = ""
    account: AccountIfAny = ""
    totals: Totals


class ReportPayout(Value):
    """A payout of a provider in the month, by what its entries are; these add up to ``amount``, which goes to the bank.

    Shape: ``fees`` are those of single charges and those of their own, with the tax on them; ``other`` is whatever is
    no charge, refund or fee: chargebacks, reserves, conversions, corrections. Units: in ``currency``, as the provider's
    account sees them.
    """

    number: Text
    bridge: Code
    day: datetime.date
    currency: Text
    charges: Exact
    refunds: Exact
    fees: Exact
    other: Exact
    amount: Exact
    state: Text


class ReportMoneyAccount(Value):
    """An account of money, by its newest proof that covers the last day of the month; with none it was not proved.

    Shape: ``balance`` is what the books have on it at the end of ``proved_to``, ``proved`` whether both sides are the
    same item by item, ``ages`` what stands there by age.
    """

    books: Code
    account: Code
    name: Text
    purposes: tuple[Text, ...]
    currency: Text
    proof: int | None = None
    proved_to: datetime.date | None = None
    proved: bool | None = None
    balance: Exact | None = None
    # Of the proof's own day: what stood there then, and not what stands there by now.
    ages: tuple[AgeOfOpen, ...] = ()


class AgeOfOpen(Value):
    """What is open and no older than ``up_to`` days at the end of the month, and older than the age before it; the last
    has no end. Of source documents ``state`` says in which state."""

    state: Text = ""
    currency: Text = ""
    up_to: int | None
    count: int
    amount: Exact


class MonthReport(Value):
    """A month of a company: summary, tie-out, differences, payouts, accounts of money, what is open by age, and who
    accepted what.

    Shape: amounts are text with the digits of their currency. ``documents`` are those behind the differences, the first
    of each reason; ``documents_left_out`` counts the others.
    """

    # In the document itself, for whoever finds it in ten years without its name.
    format: Literal["month-report-1"] = "month-report-1"
    company: ReportCompany
    month: Code
    first: datetime.date
    last: datetime.date
    bridges: tuple[ReportBridge, ...]
    ties: bool
    headline: tuple[ReportRow, ...]
    tax_codes: tuple[ReportRow, ...]
    # Not written where there are none: so what was frozen before this was told still has the checksum that it had.
    accounts: Annotated[tuple[ReportAccountRow, ...], Field(exclude_if=operator.not_)] = ()
    tenders: tuple[ReportRow, ...]
    by_bridge: tuple[ReportRow, ...]
    by_day: tuple[ReportRow, ...]
    differing: tuple[DifferingDocuments, ...]
    open_items: tuple[OpenItem, ...]
    accepted: tuple[AcceptedItem, ...]
    documents: tuple[ReportDocument, ...]
    documents_left_out: int
    payouts: tuple[ReportPayout, ...]
    money_accounts: tuple[ReportMoneyAccount, ...]
    open_by_age: tuple[AgeOfOpen, ...]


class ClosedReport(Value):
    """The report with its seal; without one the month was not closed, and its figures still move."""

    report: MonthReport
    seal: Seal | None = None


def row_of(row: SheetRow) -> ReportRow:
    """A row of the sheet as the report keeps it."""
    return ReportRow(**_told(row))


def account_row_of(row: SheetRow, name: str, used_for: tuple[str, ...]) -> ReportAccountRow:
    """A row of an account as the report keeps it, with what the books call it and the rules use it for."""
    place = row.place
    return ReportAccountRow(
        **_told(row), connection=place.connection, account=place.account, name=name, used_for=used_for
    )  # fmt: skip


def _told(row: SheetRow) -> dict[str, Any]:
    place, currency = row.place, row.place.currency
    parts = (
        ReportPart(reason=part.reason.value, detail=part.detail, documents=part.documents, settled=part.settled,
                   totals=in_currency(part.totals, currency))
        for part in row.parts
    )  # fmt: skip
    # The difference and what is unexplained could be worked out: whoever reads the file has them beside one another.
    return {
        "section": place.section, "currency": currency, "bridge": place.bridge, "tax_code": place.tax_code,
        "tender": place.tender, "day": datetime.date.fromisoformat(place.day) if place.day else None,
        "source": in_currency(row.source, currency), "books": in_currency(row.books, currency),
        "difference": in_currency(row.difference, currency), "parts": tuple(parts),
        "unexplained": in_currency(row.unexplained, currency), "ties": row.ties,
    }  # fmt: skip


def in_currency(totals: Totals, currency: str) -> Totals:
    """Totals with the digits of their currency, so that the same amount is always written in the same way."""
    amounts = {name: amount_in(getattr(totals, name), currency) for name in ("net", "tax", "gross")}
    return Totals(count=totals.count, **amounts)


def amount_in(amount: Decimal, currency: str) -> Decimal:
    """An amount with the digits of its currency; as short as it can be, where nobody knows them."""
    try:
        return exact(amount, currency)
    except NotExact:
        # A currency that the table does not have holds its documents, and stands in the report all the same.
        return amount.normalize() + 0
