"""The report of a month, as things stand: what is frozen when it is closed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from django.db import connection
from django.db.models import F, Window
from django.db.models.functions import RowNumber

from inkwell_bridge.core.clearing import AGES
from inkwell_bridge.core.closing import (
    AcceptedItem,
    AgeOfOpen,
    DifferingDocuments,
    Month,
    MonthReport,
    OpenItem,
    ReportBridge,
    ReportCompany,
    ReportDocument,
    ReportMoneyAccount,
    ReportPayout,
    account_row_of,
    row_of,
)
from inkwell_bridge.core.closing.report import amount_in, in_currency
from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.core.proof import Amounts, Reason, Table, Totals, table_of
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Difference
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.totals import totals_of
from inkwell_bridge.service.clearing.accounts import MoneyAccount, accounts_of
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.closing.models import AcceptedDifference
from inkwell_bridge.service.closing.open_differences import items_of
from inkwell_bridge.service.completeness.lacking import lacking_of
from inkwell_bridge.service.completeness.models import Lacking
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.tieout import sheet
from inkwell_bridge.service.tieout.accounts import named as named_accounts
from inkwell_bridge.service.tieout.at_provider import known_to_provider_only
from inkwell_bridge.service.tieout.money_alone import not_carried
from inkwell_bridge.service.tieout.scope import Scope

# Of each reason so many documents are named; what is many has one cause, and its list is a page of the console.
DOCUMENTS_OF_A_REASON = 100
# The number of a document that nobody has named.
NOT_KNOWN = "?"
# What a provider takes for itself, by whatever name; the tax on it stands with it.
_FEES = (EntryKind.FEE, EntryKind.REFERRAL_FEE, EntryKind.FULFILMENT_FEE, EntryKind.SUBSCRIPTION,
         EntryKind.ADVERTISING, EntryKind.SHIPPING_LABEL)  # fmt: skip


def scope_of(company: Company, month: Month) -> Scope:
    """The sheet of a month of a company."""
    return Scope(company.workspace, month.first, month.last, company=company.slug)


def month_report(company: Company, month: Month) -> MonthReport:
    """All that is told of a month. Some twenty statements, whatever its size.

    Where it is to be frozen, expects a transaction that sees one state of all tables.
    """
    scope = scope_of(company, month)
    tables, items, differing = sheet.whole(scope), items_of(scope), sheet.differing(scope)
    parted = list(sheet.figures_by(scope, "bridge", "day"))
    bridges = list(Bridge.objects.filter(company=company).select_related("source", "books").order_by("slug", "pk"))
    documents = list(_documents(scope))
    return MonthReport(
        company=ReportCompany(
            client=company.workspace.name, slug=company.slug, name=company.name, country=company.country,
            currency=company.currency, time_zone=company.time_zone,
        ),
        month=str(month),
        first=month.first,
        last=month.last,
        bridges=tuple(
            ReportBridge(slug=one.slug, name=one.name, sales_side=one.source.name, books=one.books.name)
            for one in bridges
            if one.removed_at is None
        ),
        ties=not items and all(row.ties for table in tables for row in table),
        headline=tuple(map(row_of, tables.headline)),
        tax_codes=tuple(map(row_of, tables.tax_codes)),
        accounts=tuple(
            account_row_of(one.row, one.name, one.used_for) for one in named_accounts(tables.accounts, scope.workspace)
        ),
        tenders=tuple(map(row_of, tables.tenders)),
        by_bridge=tuple(map(row_of, sheet.headline_of(parted, "bridge"))),
        by_day=tuple(map(row_of, sheet.headline_of(parted, "day"))),
        differing=tuple(DifferingDocuments(reason=reason.value, documents=number) for reason, number in differing),
        open_items=tuple(_in_currency(item) for item in items),
        accepted=tuple(_accepted(company, month, items)),
        documents=tuple(documents),
        documents_left_out=_in_all(scope) - len(documents),
        payouts=tuple(_payouts(bridges, month)),
        money_accounts=tuple(_money_accounts(company, bridges, month)),
        open_by_age=tuple(_open_by_age(bridges, month)),
    )  # fmt: skip


def _in_all(scope: Scope) -> int:
    return sum(rows.count() for rows in (scope.of(Difference.objects.all()), lacking_of(scope),
                                         known_to_provider_only(scope), not_carried(scope)))  # fmt: skip


def acceptances(company: Company, month: Month) -> list[AcceptedDifference]:
    """Those of a month that were not taken back, in order."""
    rows = AcceptedDifference.objects.filter(company=company, month=month.first, withdrawn_at=None)
    return list(rows.select_related("person").order_by("pk"))


def _accepted(company: Company, month: Month, items: Sequence[OpenItem]) -> Iterator[AcceptedItem]:
    """What was accepted and is so still; of what somebody accepted twice the newest word."""
    open_now = {item.fingerprint for item in items}
    newest = {one.item["fingerprint"]: one for one in acceptances(company, month)}
    for fingerprint, one in newest.items():
        if fingerprint in open_now:
            yield AcceptedItem(item=_in_currency(OpenItem.read(one.item)), by=in_words(one.person), at=one.at,
                               note=one.note)  # fmt: skip


def in_words(person: Person) -> str:
    """Who somebody is, as a report says it."""
    return f"{person.name} ({person.email})" if person.name else person.email


def _in_currency(item: OpenItem) -> OpenItem:
    amounts = (part.model_copy(update={"totals": in_currency(part.totals, part.currency)}) for part in item.amounts)
    return item.model_copy(update={"amounts": tuple(amounts)})


def _documents(scope: Scope) -> Iterator[ReportDocument]:
    """The first of each reason, day by day, by their numbers."""
    first = Window(RowNumber(), partition_by=["reason", "detail"], order_by=[F("crossing").asc(), F("pk").asc()])
    rows = scope.of(Difference.objects.all()).annotate(position=first)
    columns = ("crossing__kind", "crossing__number", "crossing__bridge__slug", "date", "reason", "detail", "grain",
               "section", "currency", "tax_code", "tender", "account", *Amounts._fields)  # fmt: skip
    told = rows.filter(position__lte=DOCUMENTS_OF_A_REASON).order_by("reason", "detail", "position")
    for row in told.values(*columns, "position"):
        yield ReportDocument(
            reason=row["reason"],
            detail=row["detail"],
            kind=row["crossing__kind"],
            number=row["crossing__number"],
            bridge=row["crossing__bridge__slug"],
            day=row["date"],
            currency=row["currency"],
            table=table_of(row["grain"], row["section"]).value,
            tax_code=row["tax_code"],
            tender=row["tender"],
            account=row["account"],
            totals=in_currency(totals_of(row), row["currency"]),
        )
    for reason, rows in (
        (Reason.AT_PROVIDER, known_to_provider_only(scope)), (Reason.MONEY_NOT_CARRIED, not_carried(scope))
    ):  # fmt: skip
        for one in rows.select_related("bridge").defer("planned").order_by("pk")[:DOCUMENTS_OF_A_REASON]:
            yield ReportDocument(
                reason=reason.value, detail=one.cause if reason is Reason.MONEY_NOT_CARRIED else "", kind=one.kind,
                number=one.number, bridge=one.bridge.slug, day=one.business_date or scope.first, currency=one.currency,
                table=Table.TOTALS.value, totals=Totals(),
            )  # fmt: skip
    for one in lacking_of(scope).select_related("bridge__company")[:DOCUMENTS_OF_A_REASON]:
        yield _lacking(one)


def _lacking(one: Lacking) -> ReportDocument:
    """One that is not here: what it comes to counts on no side."""
    return ReportDocument(
        reason=one.reason, kind=one.kind, number=one.number or NOT_KNOWN, bridge=one.bridge.slug, day=one.date,
        currency=one.currency or one.bridge.company.currency, table=Table.TOTALS.value, totals=Totals(),
    )  # fmt: skip


def _payouts(bridges: Sequence[Bridge], month: Month) -> Iterator[ReportPayout]:
    """Those of the month by the day on which they were paid out; one statement, which opens their entries."""
    for number, bridge, day, currency, total, charges, refunds, fees, other, state in _rows(
        _PAYOUTS, bridges, month, fees=[kind.value for kind in _FEES]
    ):
        amounts = {"charges": charges, "refunds": refunds, "fees": fees, "other": other, "amount": total}
        yield ReportPayout(
            number=number, bridge=bridge, day=day, currency=currency, state=state,
            **{name: amount_in(amount, currency) for name, amount in amounts.items()},
        )  # fmt: skip


_PAYOUTS = """
    SELECT crossing.number, bridge.slug, crossing.business_date, crossing.currency, crossing.gross,
           sums.charges, sums.refunds, sums.fees, sums.other, crossing.state
    FROM carriage_crossing AS crossing
    JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
    CROSS JOIN LATERAL (
        SELECT coalesce(sum(amount) FILTER (WHERE kind = 'charge'), 0) AS charges,
               coalesce(sum(amount) FILTER (WHERE kind = 'refund'), 0) AS refunds,
               coalesce(sum(fee + fee_tax), 0) + coalesce(sum(amount) FILTER (WHERE kind = ANY(%(fees)s)), 0) AS fees,
               coalesce(sum(amount) FILTER (WHERE kind NOT IN ('charge', 'refund') AND kind <> ALL(%(fees)s)), 0)
                   AS other
        FROM (SELECT entry ->> 'kind' AS kind, (entry ->> 'amount')::numeric AS amount,
                     coalesce((entry ->> 'fee')::numeric, 0) AS fee,
                     coalesce((entry ->> 'fee_tax')::numeric, 0) AS fee_tax
              FROM jsonb_array_elements(snapshot.content -> 'entries') AS entry) AS entries
    ) AS sums
    WHERE crossing.bridge_id = ANY(%(bridges)s) AND crossing.kind = 'payouts' AND crossing.gross IS NOT NULL
      AND crossing.business_date BETWEEN %(first)s AND %(last)s
    ORDER BY crossing.business_date, crossing.number, crossing.id
"""


def _money_accounts(company: Company, bridges: Sequence[Bridge], month: Month) -> Iterator[ReportMoneyAccount]:
    """The accounts of money of the company's books; each with its newest proof up to the last day of the month."""
    books = {one.books_id for one in bridges}
    named = [one for one in accounts_of(company.workspace) if one.books.pk in books]
    proofs = ClearingProof.objects.filter(books__in=books, state="ended", last=month.last)
    newest = {(one.books_id, one.account): one for one in proofs.order_by("pk")}
    for account in named:
        yield _money_account(account, newest.get((account.books.pk, account.code)))


def _money_account(account: MoneyAccount, proof: ClearingProof | None) -> ReportMoneyAccount:
    said = ReportMoneyAccount(
        books=account.books.slug, account=account.code, name=account.name,
        purposes=tuple(one.value for one in account.purposes), currency=account.currency,
    )  # fmt: skip
    if proof is None or not proof.result:
        return said
    currency = proof.result["currency"]
    ages = (proof.result.get("standing") or {}).get("ages", ())
    return said.model_copy(
        update={
            "proof": proof.pk,
            "proved_to": proof.last,
            "proved": proof.proves,
            "currency": currency,
            "balance": amount_in(Decimal(proof.result["books"]), currency),
            "ages": tuple(
                AgeOfOpen(currency=currency, up_to=age["up_to"], count=age["count"],
                          amount=amount_in(Decimal(age["amount"]), currency))
                for age in ages
            ),
        }
    )  # fmt: skip


def _open_by_age(bridges: Sequence[Bridge], month: Month) -> Iterator[AgeOfOpen]:
    """What is not carried by now of up to the last day of the month, by how old it was on that day; one statement."""
    states = [CrossingState.WAITING.value, CrossingState.HELD.value, CrossingState.DIFFERS.value]
    for state, currency, up_to, count, amount in _rows(_OPEN_BY_AGE, bridges, month, states=states, ages=list(AGES)):
        yield AgeOfOpen(state=state, currency=currency, up_to=up_to, count=count, amount=amount_in(amount, currency))


_OPEN_BY_AGE = """
    SELECT state, currency, (SELECT min(age) FROM unnest(%(ages)s::int[]) AS age
                             WHERE age >= %(last)s::date - business_date) AS up_to,
           count(*), coalesce(sum(gross), 0)
    FROM carriage_crossing
    WHERE bridge_id = ANY(%(bridges)s) AND state = ANY(%(states)s) AND business_date <= %(last)s
    GROUP BY 1, 2, 3 ORDER BY 1, 2, 3 NULLS LAST
"""


def _rows(statement: str, bridges: Sequence[Bridge], month: Month, **given: object) -> list[tuple]:  # type: ignore[type-arg]
    period = {"first": month.first, "last": month.last, "bridges": [one.pk for one in bridges]}
    with connection.cursor() as cursor:
        cursor.execute(statement, period | given)
        return list(cursor.fetchall())
