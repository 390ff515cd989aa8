"""What providers and marketplaces paid out in a period, kind by kind, beside what the books hold of it.

Each side by itself: the entries of the payouts by the day on which they were paid, and the lines of their journals as
they were read back last, by the books' own dates. A line says which kind of entry it is of (``core.planner.payouts``).
"""

from __future__ import annotations

import json
from decimal import Decimal
from typing import NamedTuple

from django.db import connection as database

from inkwell_bridge.core.planner.payouts import COLLECTED, ENTRY_WORDS, FEE_TAX, FEES, OF_NO_ORDER, OF_ORDERS, PAID_OUT
from inkwell_bridge.service.tieout.scope import Scope

# Money of buyers stands together: what is of no known order is on an account of its own in the books, until it is.
CHARGED = "Charges and refunds"
_WORDS = {kind.value: CHARGED if kind in OF_ORDERS else words for kind, words in ENTRY_WORDS.items()}
_TEXTS = {**{ENTRY_WORDS[kind]: CHARGED for kind in OF_ORDERS}, OF_NO_ORDER: CHARGED, COLLECTED: PAID_OUT}


class PaidOut(NamedTuple):
    """One kind of entry over one bridge: what the provider tells, and what the books hold; a fee is below zero, and so
    is what the provider collected. ``documents`` are the payouts that it is of. Units: ``currency``."""

    bridge: str
    currency: str
    what: str
    documents: int
    source: Decimal
    books: Decimal

    @property
    def difference(self) -> Decimal:
        """The one side less the other."""
        return self.source - self.books


def paid_out(scope: Scope) -> list[PaidOut]:
    """The rows of a period, what was paid out last; without payouts that a rule left out. One statement."""
    with database.cursor() as cursor:
        cursor.execute(
            _ROWS,
            {
                "workspace": scope.workspace.pk,
                "first": scope.first,
                "last": scope.last,
                "bridge": scope.bridge,
                "company": scope.company,
                "words": json.dumps(_WORDS),
                "texts": json.dumps(_TEXTS),
                "fees": FEES,
                "fee_tax": FEE_TAX,
                "paid_out": PAID_OUT,
                "charged": CHARGED,
            },
        )
        return [PaidOut(*row) for row in cursor.fetchall()]


# A journal that stands there twice counts twice, as it does in the books' own reports.
_ROWS = """
    WITH payout AS (
        SELECT crossing.id, crossing.currency, crossing.business_date, crossing.state, bridge.slug AS bridge,
               crossing.snapshot_id
        FROM carriage_crossing AS crossing
        JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
        JOIN people_company AS company ON company.id = bridge.company_id
        WHERE crossing.workspace_id = %(workspace)s AND crossing.kind = 'payouts'
          AND (%(bridge)s = '' OR bridge.slug = %(bridge)s) AND (%(company)s = '' OR company.slug = %(company)s)
    ), of_period AS (
        -- Only of these is it asked entry by entry.
        SELECT payout.bridge, payout.currency, payout.id, snapshot.content
        FROM payout JOIN carriage_snapshot AS snapshot ON snapshot.id = payout.snapshot_id
        WHERE payout.business_date BETWEEN %(first)s AND %(last)s AND payout.state <> 'left out'
    ), told AS (
        SELECT payout.bridge, payout.currency, payout.id, part.what, part.amount AS source, 0 AS books
        FROM of_period AS payout
        CROSS JOIN LATERAL jsonb_array_elements(payout.content -> 'entries') AS entry
        CROSS JOIN LATERAL (VALUES
            (COALESCE(%(words)s::jsonb ->> (entry ->> 'kind'), entry ->> 'called'), (entry ->> 'amount')::numeric),
            (%(fees)s, (entry ->> 'fee')::numeric),
            (%(fee_tax)s, (entry ->> 'fee_tax')::numeric)
        ) AS part (what, amount)
        WHERE part.amount <> 0
        UNION ALL
        SELECT bridge, currency, id, %(paid_out)s, (content ->> 'total')::numeric, 0 FROM of_period
    ), held AS (
        SELECT payout.bridge, document.currency, payout.id, line.what, 0 AS source,
               CASE WHEN line.what = %(paid_out)s THEN line.base ELSE -line.base END AS books
        FROM payout
        JOIN carriage_documentsource AS share ON share.crossing_id = payout.id
        JOIN carriage_document AS document ON document.id = share.document_id AND document.role = 'journal'
            AND document.date BETWEEN %(first)s AND %(last)s AND document.posting_at IS NOT NULL
        CROSS JOIN LATERAL (
            SELECT document.record UNION ALL SELECT jsonb_array_elements(document.copies)
        ) AS copy (record)
        CROSS JOIN LATERAL (
            SELECT COALESCE(%(texts)s::jsonb ->> (one ->> 'text'), one ->> 'text') AS what,
                   (one ->> 'base')::numeric AS base
            FROM jsonb_array_elements(copy.record -> 'document' -> 'lines') AS one
        ) AS line
    )
    SELECT bridge, currency, what, count(DISTINCT id), sum(source), sum(books)
    FROM (SELECT * FROM told UNION ALL SELECT * FROM held) AS both_sides
    GROUP BY bridge, currency, what
    ORDER BY bridge, currency, what = %(paid_out)s, what <> %(charged)s, what
"""
