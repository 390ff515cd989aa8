"""A clearing account beside the ledgers of the providers whose payouts clear it, where they tell."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

import structlog
from django.db import connection

from inkwell_bridge.core.clearing import AtProvider, Column, Compared, OneSided, beside_provider, by_column
from inkwell_bridge.core.commerce import EntryKind, PayoutEntry
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.every_page import every_page
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.clearing.entries import Stopped
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.clearing.posted import ZERO, rows
from inkwell_bridge.service.connections.ends import dialect_of, sales_end
from inkwell_bridge.service.connections.models import Connection

log = structlog.get_logger("inkwell.clearing")

# Of money of buyers only so many entries are held against the account one by one; a provider that pays out every few
# days has a few days' takings open.
MOST_ENTRIES = 200_000
MOST_PAGES = 10_000
MOST_NAMED = 200
_OF_BUYERS = (EntryKind.CHARGE, EntryKind.REFUND)


@dataclass(slots=True)
class NotPaidOut:
    """What providers have not paid out: by column, and of buyers' money the transaction, day, order and amount."""

    provider: str
    sums: dict[Column, Decimal] = field(default_factory=dict)
    money: list[tuple[str, str, str, str]] = field(default_factory=list)
    trouble: str = ""


def read_not_paid_out(proof: ClearingProof, bridges: Sequence[int], currency: str) -> NotPaidOut | None:
    """What the providers behind these bridges have not paid out at the end of the proof's last day, in the currency of
    the books; nothing where one of them does not tell, or may not be asked just now. One that does not answer is no
    trouble of the books' proof.

    Raises:
        Stopped: the proof is not wanted any more.
    """
    sources = list(Connection.objects.filter(pk__in=Bridge.objects.filter(pk__in=bridges).values("source")))
    if not sources or not all(_tells(one) for one in sources):
        return None
    found = NotPaidOut(provider=", ".join(sorted(one.name for one in sources)))
    try:
        for source in sources:
            _read(proof, source, found, currency)
    except EndError as error:
        log.warning("clearing.provider", workspace=proof.workspace_id, proof=proof.pk, why=str(error))
        return NotPaidOut(provider=found.provider, trouble=f"{found.provider} could not be asked: {error}"[:500])
    return found


def _tells(source: Connection) -> bool:
    return source.may_be_asked and getattr(dialect_of(source).capabilities, "tells_not_paid_out", False)


def _read(proof: ClearingProof, source: Connection, found: NotPaidOut, currency: str) -> None:
    end: Any = sales_end(source)
    pages = every_page(
        lambda page: end.not_paid_out(proof.last, page=page), of="the list of what is not paid out", most=MOST_PAGES
    )
    for told in pages:
        if told.currency != currency:
            found.trouble = f"{source.name} keeps its ledger in {told.currency}, and the books are kept in {currency}."
            return
        _add(told.entries, found)
        if len(found.money) > MOST_ENTRIES:
            found.trouble = f"{found.provider} has more than {MOST_ENTRIES:,} charges that are not paid out."
            return
        # Nothing is counted of this, but somebody may have cancelled it.
        if not proof.while_active.exists():
            raise Stopped


def _add(entries: Sequence[PayoutEntry], found: NotPaidOut) -> None:
    for column, amount in by_column(entries).items():
        found.sums[column] = found.sums.get(column, ZERO) + amount
    found.money += [
        (one.transaction[:250], one.order_number[:120], one.occurred_at.date().isoformat(), f"{one.amount:f}")
        for one in entries
        if one.kind in _OF_BUYERS and one.transaction
    ]


def at_provider(proof: ClearingProof, told: NotPaidOut) -> AtProvider:
    """Hold that against what stands on the account, transaction by transaction; expects what stands there gathered.
    Four statements, whatever their number."""
    if told.trouble:
        return AtProvider(provider=told.provider, day=proof.last, trouble=told.trouble)
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        columns = [list(column) for column in zip(*told.money, strict=True)] or [[], [], [], []]
        cursor.execute(_INSERT, columns)
        cursor.execute(_GATHER, {"last": proof.last})
    ((here, only_here, only_there, otherwise, count),) = rows(_SUMS, [])
    items = [
        OneSided(transaction=transaction, number=number or "", crossing=crossing, day=day, here=of_here, there=of_there)
        for transaction, number, crossing, day, of_here, of_there in rows(_ITEMS, [MOST_NAMED])
    ]
    compared = Compared(here=here, only_here=only_here, only_there=only_there, otherwise=otherwise, count=count)
    return beside_provider(told.provider, proof.last, told.sums, compared, items)


_MAKE_ROOM = """
    DROP TABLE IF EXISTS clearing_unpaid, clearing_beside;
    CREATE TEMPORARY TABLE clearing_unpaid (transaction text, number text, day date, amount numeric) ON COMMIT DROP;
    CREATE TEMPORARY TABLE clearing_beside (
        transaction text, number text, crossing bigint, day date, here numeric, there numeric
    ) ON COMMIT DROP
"""
_INSERT = """
    INSERT INTO clearing_unpaid SELECT * FROM unnest(%s::text[], %s::text[], %s::date[], %s::numeric[])
"""
# What is in a payout that was made by then is paid out at the provider, posted or not; of a charge that is paid out in
# parts the rest stands on both sides.
_GATHER = """
    INSERT INTO clearing_beside
    WITH here AS (
        SELECT transaction, min(number) AS number, min(crossing) AS crossing, min(day) AS day,
               sum(CASE WHEN paid_on <= %(last)s THEN received - cleared ELSE received END) AS amount
        FROM clearing_standing
        WHERE what = '' AND received IS NOT NULL AND (paid_on IS NULL OR paid_on > %(last)s OR cleared IS NOT NULL)
        GROUP BY 1
    ), there AS (
        SELECT transaction, min(number) AS number, min(day) AS day, sum(amount) AS amount
        FROM clearing_unpaid GROUP BY 1
    )
    SELECT COALESCE(here.transaction, there.transaction), COALESCE(NULLIF(here.number, ''), there.number),
           here.crossing, COALESCE(here.day, there.day), here.amount, there.amount
    FROM here FULL JOIN there ON there.transaction = here.transaction
"""
_SUMS = """
    SELECT COALESCE(sum(here), 0), COALESCE(sum(here) FILTER (WHERE there IS NULL), 0),
           COALESCE(sum(there) FILTER (WHERE here IS NULL), 0),
           COALESCE(sum(here - there), 0), count(*) FILTER (WHERE here IS DISTINCT FROM there)
    FROM clearing_beside
"""
_ITEMS = """
    SELECT transaction, number, crossing, day, here, there FROM clearing_beside
    WHERE here IS DISTINCT FROM there ORDER BY day, transaction LIMIT %s
"""
