"""What stands on an account of money at the end of the last day, item by item, in a table of this transaction."""

from __future__ import annotations

from collections.abc import Iterator

from django.db import connection

from inkwell_bridge.core.clearing import OfDay, StandingItem, WhyStands, why_standing
from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.core.planner.payouts import ENTRY_WORDS
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.clearing.posted import ZERO, rows


def gather_on_clearing(proof: ClearingProof) -> None:
    """Gather charges and refunds that no posted payout has cleared, or not in full, and what a provider carried over.

    Every transaction is summed on both sides: what receipts and refunds put on the account, and what the payouts that
    are posted there said of it. A transaction that no order told of went to suspense, and never touched the account.
    """
    _gather(proof, _ON_CLEARING, _CARRIED_OVER)


def gather_on_its_way(proof: ClearingProof) -> None:
    """Gather payouts that stand on the account until the bank has them."""
    _gather(proof, _ON_ITS_WAY)


def _gather(proof: ClearingProof, *statements: str) -> None:
    asked = {"books": proof.books_id, "workspace": proof.workspace_id, "account": proof.account,
             "carried_over": ENTRY_WORDS[EntryKind.CARRIED_OVER]}  # fmt: skip
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        for statement in statements:
            cursor.execute(f"INSERT INTO clearing_standing {statement}", asked)


_MAKE_ROOM = """
    DROP TABLE IF EXISTS clearing_standing;
    CREATE TEMPORARY TABLE clearing_standing (
        what text, transaction text, day date, received numeric, cleared numeric, crossing bigint,
        number text, payout text, elsewhere boolean, paid_on date
    ) ON COMMIT DROP
"""


def sums_by_day() -> Iterator[OfDay]:
    """How many items came on each day, and what they come to."""
    for day, count, amount in rows(_BY_DAY, []):
        yield OfDay(day=day, count=count, amount=amount)


def oldest(most: int) -> Iterator[StandingItem]:
    """The oldest of them."""
    for what, transaction, day, received, cleared, crossing, number, payout, elsewhere, _ in rows(_OLDEST, [most]):
        why = WhyStands(what) if what else why_standing(
            received=received, cleared=cleared, payout=payout, posted_elsewhere=elsewhere
        )  # fmt: skip
        yield StandingItem(
            why=why, number=number, transaction="" if transaction.startswith("document ") else transaction,
            payout=payout, crossing=crossing, day=day, received=received or ZERO, cleared=cleared or ZERO,
        )  # fmt: skip


_BY_DAY = """
    SELECT day, count(*), sum(COALESCE(received, 0) - COALESCE(cleared, 0)) FROM clearing_standing GROUP BY day
"""
_OLDEST = "SELECT * FROM clearing_standing ORDER BY day, number, transaction LIMIT %s"
_ON_CLEARING = """
    WITH posted AS (
        SELECT DISTINCT crossing FROM clearing_posted WHERE clears
    ), received AS (
        SELECT transaction, min(day) AS day, sum(amount) AS amount, min(crossing) AS crossing,
               min(source_number) AS number
        FROM clearing_posted WHERE role <> 'journal' OR kind IN ('request_payments', 'bank_payments') GROUP BY 1
    ), paid_out AS (
        SELECT movement.transaction, min(crossing.business_date) AS day,
               sum(movement.amount) FILTER (WHERE posted.crossing IS NOT NULL) AS cleared,
               string_agg(DISTINCT crossing.number, ', ') AS payout
        FROM carriage_moneymovement AS movement
        JOIN carriage_crossing AS crossing ON crossing.id = movement.crossing_id
        JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id AND bridge.books_id = %(books)s
        LEFT JOIN posted ON posted.crossing = crossing.id
        WHERE movement.workspace_id = %(workspace)s AND movement.kind = 'paid out'
          AND (posted.crossing IS NOT NULL OR movement.transaction IN (SELECT transaction FROM received))
        GROUP BY 1
    )
    SELECT '', COALESCE(received.transaction, paid_out.transaction), COALESCE(received.day, paid_out.day),
           received.amount, paid_out.cleared, COALESCE(received.crossing, told.crossing),
           COALESCE(received.number, told.number, ''), COALESCE(paid_out.payout, ''),
           received.transaction IS NULL AND COALESCE(told.posted, false), paid_out.day
    FROM received FULL JOIN paid_out ON paid_out.transaction = received.transaction
    LEFT JOIN LATERAL (
        SELECT source.id AS crossing, source.number, movement.document_id IS NOT NULL AS posted
        FROM carriage_moneymovement AS movement
        JOIN carriage_crossing AS source ON source.id = movement.crossing_id
        JOIN bridges_bridge AS bridge ON bridge.id = source.bridge_id AND bridge.books_id = %(books)s
        WHERE movement.workspace_id = %(workspace)s AND movement.transaction = paid_out.transaction
          AND movement.kind <> 'paid out'
        ORDER BY movement.document_id IS NULL, movement.id LIMIT 1
    ) AS told ON received.transaction IS NULL
    WHERE received.amount IS DISTINCT FROM paid_out.cleared
      AND (received.transaction IS NOT NULL OR told.crossing IS NOT NULL)
"""
# Kept by one payout (below zero in it, a debit here), and given with another.
_CARRIED_OVER = """
    SELECT 'carried over by the provider', '', max(posted.day), sum(greatest((line ->> 'base')::numeric, 0)),
           -sum(least((line ->> 'base')::numeric, 0)), max(posted.crossing), max(posted.source_number),
           max(posted.source_number), false, NULL::date
    FROM clearing_posted AS posted JOIN carriage_document AS document ON document.id = posted.document
    CROSS JOIN LATERAL jsonb_array_elements(document.record -> 'document' -> 'lines') AS line
    WHERE posted.clears AND line ->> 'account' = %(account)s AND line ->> 'text' = %(carried_over)s
    HAVING sum((line ->> 'base')::numeric) <> 0
"""
_ON_ITS_WAY = """
    WITH arrived AS (
        SELECT line ->> 'text' AS said, -sum((line ->> 'base')::numeric) AS amount
        FROM clearing_posted AS posted JOIN carriage_document AS document ON document.id = posted.document
        CROSS JOIN LATERAL jsonb_array_elements(document.record -> 'document' -> 'lines') AS line
        WHERE posted.kind = 'arrivals' AND line ->> 'account' = %(account)s GROUP BY 1
    ), paid_out AS (
        SELECT source_number AS number, min(day) AS day, sum(amount) AS amount, min(crossing) AS crossing
        FROM clearing_posted WHERE kind = 'payouts' GROUP BY 1
    )
    SELECT 'on its way to the bank', '', paid_out.day, paid_out.amount, COALESCE(arrived.amount, 0), paid_out.crossing,
           paid_out.number, paid_out.number, false, NULL::date
    FROM paid_out LEFT JOIN arrived ON arrived.said = 'Payout ' || paid_out.number
    WHERE paid_out.amount IS DISTINCT FROM COALESCE(arrived.amount, 0)
"""
