"""What was posted from here on one account of the books, as it was read back, in a table of this transaction.

Receipts and refunds are found by their account, journals by their lines, each by an index; whatever a document has on
the account comes to one row. All that follows is said over these rows, a statement each, whatever their number.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import connection

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.clearing import CLEARED, Column, Part, in_columns
from inkwell_bridge.service.clearing.models import ClearingProof

ZERO = Decimal(0)


def gather(proof: ClearingProof) -> None:
    """Gather what stands on the account up to the last day; expects a transaction, and the books' entries read.

    What was posted after the proof was asked for may be missing among the entries: it counts only where it is there.
    """
    asked = {"books": proof.books_id, "account": proof.account, "line": _line_on(proof.account), "last": proof.last,
             "asked_at": proof.asked_at, "proof": proof.pk, "cleared": list(CLEARED)}  # fmt: skip
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        cursor.execute(_GATHER, asked)
        cursor.execute("CREATE INDEX ON clearing_posted (reference); ANALYZE clearing_posted")


def _line_on(account: str) -> str:
    """What the lines of a document contain, in JSON, where one of them stands on the account."""
    return json.dumps([{"account": account}])


_MAKE_ROOM = """
    DROP TABLE IF EXISTS clearing_posted;
    CREATE TEMPORARY TABLE clearing_posted (
        document bigint, reference text, role text, number text, day date, transaction text, kind text, crossing bigint,
        source_number text, clears boolean, amount numeric
    ) ON COMMIT DROP
"""
_GATHER = """
    INSERT INTO clearing_posted
    WITH standing AS (
        SELECT id, external_reference AS reference, role, books_number AS number, posting_at,
               record -> 'document' AS said, record
        FROM carriage_document
        WHERE connection_id = %(books)s AND role IN ('payment', 'refund payment')
          AND record -> 'document' ->> 'account' = %(account)s
        UNION ALL
        SELECT id, external_reference, role, books_number, posting_at, record -> 'document', record
        FROM carriage_document
        WHERE connection_id = %(books)s AND role = 'journal'
          AND record -> 'document' -> 'lines' @> %(line)s::jsonb
        UNION ALL
        SELECT id, external_reference, role, books_number, posting_at, record -> 'document', record
        FROM carriage_document
        WHERE connection_id = %(books)s AND role = 'cash sale'
          AND record -> 'document' -> 'takings' @> %(line)s::jsonb
    )
    SELECT standing.id AS document, standing.reference, standing.role, standing.number, (said ->> 'date')::date AS day,
           COALESCE(
               NULLIF(said ->> 'transaction', ''),
               -- What came beyond an invoice is a journal, and bears the number of its charge on its lines.
               CASE WHEN source.kind IN ('request_payments', 'bank_payments')
                    THEN said #>> '{lines,0,line_reference}' END,
               'document ' || standing.id) AS transaction,
           COALESCE(source.kind, '') AS kind, source.crossing, COALESCE(source.number, '') AS source_number,
           COALESCE(lines.clears, false) AS clears,
           CASE role
               WHEN 'payment' THEN COALESCE(said ->> 'base', record #>> '{base,gross}', said ->> 'amount')::numeric
               WHEN 'refund payment'
                   THEN -COALESCE(said ->> 'base', record #>> '{base,gross}', said ->> 'amount')::numeric
               ELSE lines.amount
           END AS amount
    FROM standing
    LEFT JOIN LATERAL (
        SELECT crossing.kind, crossing.id AS crossing, crossing.number
        FROM carriage_documentsource AS share JOIN carriage_crossing AS crossing ON crossing.id = share.crossing_id
        WHERE share.document_id = standing.id ORDER BY share.id LIMIT 1
    ) AS source ON true
    LEFT JOIN LATERAL (
        SELECT sum(COALESCE(line ->> 'base', line ->> 'amount')::numeric) AS amount,
               bool_or(line ->> 'text' = ANY(%(cleared)s)) AS clears
        FROM jsonb_array_elements(
            CASE role WHEN 'journal' THEN said -> 'lines' WHEN 'cash sale' THEN said -> 'takings' END) AS line
        WHERE line ->> 'account' = %(account)s
    ) AS lines ON role IN ('journal', 'cash sale')
    WHERE record ->> 'standing' = 'posted' AND (said ->> 'date')::date <= %(last)s
      AND (posting_at IS NULL OR posting_at <= %(asked_at)s OR EXISTS (
              SELECT 1 FROM clearing_readentry AS entry
              WHERE entry.proof_id = %(proof)s AND entry.reference = standing.reference))
"""


def before(first: date) -> Decimal:
    """What was posted from here on the account before a day."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT COALESCE(sum(amount), 0) FROM clearing_posted WHERE day < %s", [first])
        return Decimal(cursor.fetchone()[0])


def of_other_journals() -> Decimal:
    """What journals of anything but payouts put there, and those of payouts that clear nothing on it; what was paid
    beyond an invoice is a charge, and none of them."""
    with connection.cursor() as cursor:
        cursor.execute(_OF_OTHER_JOURNALS)
        return Decimal(cursor.fetchone()[0])


_OF_OTHER_JOURNALS = """
    SELECT COALESCE(sum(amount), 0) FROM clearing_posted
    WHERE role = 'journal' AND NOT clears AND kind NOT IN ('request_payments', 'bank_payments')
"""


def moved_by_day(proof: ClearingProof, clears_for: Sequence[int]) -> Mapping[date, list[tuple[Column, Decimal]]]:
    """What was posted from here on each day, by column; two statements.

    ``clears_for`` are the bridges whose payouts clear the account by the rules: one that had nothing to clear (a
    subscription alone, collected from the bank) comes to nothing there, and is shown in its columns all the same.
    """
    parts: dict[date, list[Part]] = defaultdict(list)
    with connection.cursor() as cursor:
        cursor.execute(_MONEY, [proof.first])
        for day, role, amount in cursor.fetchall():
            parts[day].append(Part(role=Role(role), amount=amount))
        asked = {"account": proof.account, "line": _line_on(proof.account), "first": proof.first, "last": proof.last,
                 "bridges": list(clears_for)}  # fmt: skip
        cursor.execute(_JOURNALS, asked)
        for day, kind, text, own, clears, amount in cursor.fetchall():
            parts[day].append(
                Part(role=Role.JOURNAL, kind=kind, text=text, own=own, clears=clears, amount=amount)
            )  # fmt: skip
    return {day: list(in_columns(of_day)) for day, of_day in parts.items()}


_MONEY = "SELECT day, role, sum(amount) FROM clearing_posted WHERE role <> 'journal' AND day >= %s GROUP BY day, role"
_JOURNALS = """
    WITH journals AS (
        SELECT day, kind, clears, document FROM clearing_posted WHERE role = 'journal' AND day >= %(first)s
        UNION ALL
        SELECT (document.record #>> '{document,date}')::date, crossing.kind, true, document.id
        FROM carriage_crossing AS crossing
        JOIN carriage_documentsource AS share ON share.crossing_id = crossing.id
        JOIN carriage_document AS document ON document.id = share.document_id
        WHERE crossing.bridge_id = ANY(%(bridges)s) AND crossing.kind = 'payouts' AND document.role = 'journal'
          AND document.record ->> 'standing' = 'posted'
          AND (document.record #>> '{document,date}')::date BETWEEN %(first)s AND %(last)s
          AND NOT document.record #> '{document,lines}' @> %(line)s::jsonb
    )
    SELECT journals.day, journals.kind, line ->> 'text', line ->> 'account' = %(account)s, journals.clears,
           sum((line ->> 'base')::numeric)
    FROM journals JOIN carriage_document AS document ON document.id = journals.document
    CROSS JOIN LATERAL jsonb_array_elements(document.record -> 'document' -> 'lines') AS line
    WHERE (line ->> 'account' = %(account)s) <> journals.clears
    GROUP BY 1, 2, 3, 4, 5
"""


def rows(statement: str, asked: Mapping[str, Any] | list[Any]) -> list[tuple[Any, ...]]:
    """What a statement over these rows answers."""
    with connection.cursor() as cursor:
        cursor.execute(statement, asked)
        return list(cursor.fetchall())
