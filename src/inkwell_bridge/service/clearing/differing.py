"""The items of an account that are not the same on both sides."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.db import connection

from inkwell_bridge.core.clearing import Item
from inkwell_bridge.core.planner import is_ours
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.clearing.posted import rows

_CHUNK = 5_000


def differing(proof: ClearingProof) -> Iterator[Item]:
    """Each of them, by day; expects what was posted from here gathered, and the books' entries read.

    They are set side by side in one statement, and handed out a few thousand at a time.
    """
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        cursor.execute(
            _SET_BESIDE,
            {"proof": proof.pk, "workspace": proof.workspace_id, "books": proof.books_id, "first": proof.first},
        )
    after = 0
    while found := rows(_NEXT, [after, _CHUNK]):
        after = found[-1][0]
        yield from (_item(*row[1:]) for row in found)


def _item(reference: str, number: str, text: str, documents: int, our_day: Any, our_amount: Any, books_day: Any,
          books_amount: Any, crossing: int | None, source_number: str, known: bool) -> Item:  # fmt: skip
    return Item(
        reference=reference, number=number, text=text, documents=documents, our_day=our_day, our_amount=our_amount,
        books_day=books_day, books_amount=books_amount, crossing=crossing, source_number=source_number,
        entered_there=not is_ours(reference), known_elsewhere=known,
    )  # fmt: skip


_MAKE_ROOM = """
    DROP TABLE IF EXISTS clearing_differing;
    CREATE TEMPORARY TABLE clearing_differing (
        place bigint PRIMARY KEY, reference text, number text, text text, documents integer, our_day date,
        our_amount numeric, books_day date, books_amount numeric, crossing bigint, source_number text,
        known_elsewhere boolean
    ) ON COMMIT DROP
"""
# What bears no reference stands by itself; what bears one of ours is looked for whatever account or day it has here.
_SET_BESIDE = """
    INSERT INTO clearing_differing
    WITH theirs AS (
        SELECT reference, COALESCE(NULLIF(reference, ''), family || ' ' || books_id) AS key,
               min(number) AS number, min(text) AS text, count(DISTINCT (family, books_id)) AS documents,
               min(date) AS day, sum(amount) AS amount
        FROM clearing_readentry WHERE proof_id = %(proof)s GROUP BY 1, 2
    ), ours AS (
        SELECT * FROM clearing_posted WHERE day >= %(first)s
    )
    SELECT row_number() OVER (ORDER BY COALESCE(theirs.day, ours.day), COALESCE(theirs.key, ours.reference)) AS place,
           COALESCE(theirs.reference, ours.reference) AS reference, COALESCE(theirs.number, ours.number) AS number,
           COALESCE(theirs.text, '') AS text, COALESCE(theirs.documents, 0) AS documents,
           ours.day AS our_day, ours.amount AS our_amount, theirs.day AS books_day, theirs.amount AS books_amount,
           COALESCE(ours.crossing, known.crossing) AS crossing,
           COALESCE(ours.source_number, known.source_number, '') AS source_number,
           ours.reference IS NULL AND known.crossing IS NOT NULL AS known_elsewhere
    FROM theirs FULL JOIN ours ON ours.reference = theirs.key
    LEFT JOIN LATERAL (
        SELECT crossing.id AS crossing, crossing.number AS source_number
        FROM carriage_document AS document
        JOIN carriage_documentsource AS share ON share.document_id = document.id
        JOIN carriage_crossing AS crossing ON crossing.id = share.crossing_id
        -- By the whole key of the index: of a million documents one is looked for.
        WHERE document.workspace_id = %(workspace)s AND document.connection_id = %(books)s
          AND document.external_reference = theirs.reference AND theirs.reference <> ''
        ORDER BY share.id LIMIT 1
    ) AS known ON ours.reference IS NULL
    WHERE (ours.day, ours.amount) IS DISTINCT FROM (theirs.day, theirs.amount) OR theirs.documents > 1
"""
_NEXT = """
    SELECT place, reference, number, text, documents, our_day, our_amount, books_day, books_amount, crossing,
           source_number, known_elsewhere
    FROM clearing_differing WHERE place > %s ORDER BY place LIMIT %s
"""
