"""What stands on an account of money at the end of the last day, item by item."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.clearing import StandingItem, WhyStands, why_standing
from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.core.planner.payouts import ENTRY_WORDS
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.clearing.posted import ZERO, rows


def on_clearing(proof: ClearingProof) -> Iterator[StandingItem]:
    """Charges and refunds that no posted payout has cleared, or not in full, and what a provider carried over.

    Every transaction is summed on both sides: what receipts and refunds put on the account, and what the payouts that
    are posted there said of it. A transaction that no order told of went to suspense, and never touched the account.
    """
    for transaction, day, received, cleared, crossing, number, payout, elsewhere in rows(_ON_CLEARING, _asked(proof)):
        why = why_standing(received=received, cleared=cleared, payout=payout, posted_elsewhere=elsewhere)
        yield StandingItem(
            why=why, number=number,
            transaction="" if transaction.startswith("document ") else transaction, payout=payout, crossing=crossing,
            day=day, received=received or ZERO, cleared=cleared or ZERO,
        )  # fmt: skip
    carried = ENTRY_WORDS[EntryKind.CARRIED_OVER]
    for day, received, cleared, crossing, number in rows(_CARRIED_OVER, {**_asked(proof), "words": carried}):
        yield StandingItem(why=WhyStands.CARRIED_OVER, number=number, payout=number, crossing=crossing, day=day,
                           received=received, cleared=cleared)  # fmt: skip


def on_its_way(proof: ClearingProof) -> Iterator[StandingItem]:
    """Payouts that stand on the account until the bank has them."""
    for number, day, received, cleared, crossing in rows(_ON_ITS_WAY, _asked(proof)):
        yield StandingItem(why=WhyStands.NOT_ARRIVED, number=number, payout=number, crossing=crossing, day=day,
                           received=received, cleared=cleared)  # fmt: skip


def _asked(proof: ClearingProof) -> dict[str, object]:
    return {"books": proof.books_id, "workspace": proof.workspace_id, "account": proof.account}


_ON_CLEARING = """
    WITH posted AS (
        SELECT DISTINCT crossing FROM clearing_posted WHERE clears
    ), received AS (
        SELECT transaction, min(day) AS day, sum(amount) AS amount, min(crossing) AS crossing,
               min(source_number) AS number
        FROM clearing_posted WHERE role <> 'journal' GROUP BY 1
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
    SELECT COALESCE(received.transaction, paid_out.transaction), COALESCE(received.day, paid_out.day),
           received.amount, paid_out.cleared, COALESCE(received.crossing, told.crossing),
           COALESCE(received.number, told.number, ''), COALESCE(paid_out.payout, ''),
           received.transaction IS NULL AND COALESCE(told.posted, false)
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
    ORDER BY 2, 1
"""
# Kept by one payout (below zero in it, a debit here), and given with another.
_CARRIED_OVER = """
    SELECT max(posted.day), sum(greatest((line ->> 'base')::numeric, 0)), -sum(least((line ->> 'base')::numeric, 0)),
           max(posted.crossing), max(posted.source_number)
    FROM clearing_posted AS posted JOIN carriage_document AS document ON document.id = posted.document
    CROSS JOIN LATERAL jsonb_array_elements(document.record -> 'document' -> 'lines') AS line
    WHERE posted.clears AND line ->> 'account' = %(account)s AND line ->> 'text' = %(words)s
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
    SELECT paid_out.number, paid_out.day, paid_out.amount, COALESCE(arrived.amount, 0), paid_out.crossing
    FROM paid_out LEFT JOIN arrived ON arrived.said = 'Payout ' || paid_out.number
    WHERE paid_out.amount IS DISTINCT FROM COALESCE(arrived.amount, 0)
    ORDER BY 2, 1
"""
