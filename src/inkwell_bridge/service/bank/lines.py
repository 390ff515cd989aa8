"""The lines of a statement beside those that are known: recognised, added, and held against one another.

They go into a table of their own first, as they are read, so that a file of half a million takes no more memory than
one of ten. There they are held against what is known in a few statements, whatever their number.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django.db import connection

from inkwell_bridge.core.bank import StatementInvalid, StatementLine
from inkwell_bridge.core.money import exact
from inkwell_bridge.service.bank.models import BankLine, Statement
from inkwell_bridge.service.statistics import MANY, analyse_table

_COLUMNS = ("line", "booked_on", "value_on", "amount", "reference", "end_to_end", "name", "text", "digest")


def receive(lines: Iterable[StatementLine]) -> None:
    """Bring the lines to the database as they are read; one COPY."""
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        with cursor.copy(f"COPY bank_incoming ({', '.join(_COLUMNS)}) FROM STDIN") as copy:
            for line in lines:
                copy.write_row(_row(line))
        cursor.execute(_LOOK_OVER)


def _row(line: StatementLine) -> tuple[Any, ...]:
    # The bank's own name for a line tells it from all others of its day and amount; else all that is said does.
    said = [line.reference] if line.reference else ["", line.end_to_end, line.name, line.text, str(line.balance or "")]
    # No text of a line has the character that parts them.
    whole = "\x1f".join((line.booked_on.isoformat(), str(line.amount), *said))
    digest = hashlib.blake2b(whole.encode(), digest_size=16).hexdigest()
    return (line.line, line.booked_on, line.value_on, line.amount, line.reference, line.end_to_end, line.name,
            line.text, digest)  # fmt: skip


_MAKE_ROOM = """
    DROP TABLE IF EXISTS bank_incoming;
    CREATE TEMPORARY TABLE bank_incoming (
        place bigint GENERATED ALWAYS AS IDENTITY, line integer, booked_on date, value_on date, amount numeric(20, 4),
        reference text, end_to_end text, name text, text text, digest text
    ) ON COMMIT DROP
"""
_LOOK_OVER = "CREATE INDEX ON bank_incoming (digest); ANALYZE bank_incoming"


def add_new(statement: Statement) -> int:
    """Add the lines that are not known yet; answers how many."""
    with connection.cursor() as cursor:
        cursor.execute(_ADD, [statement.workspace_id, statement.account_id, statement.pk])
        added = int(cursor.rowcount)
    if added >= MANY:
        analyse_table(BankLine)
    return added


# What is just like another of its day is told from it by its place among them.
_ADD = """
    INSERT INTO bank_bankline (workspace_id, account_id, statement_id, line, booked_on, value_on, amount, reference,
                               end_to_end, name, text, digest, occurrence, state, note)
    SELECT %s, %s, %s, line, booked_on, value_on, amount, reference, end_to_end, name, text, digest,
           row_number() OVER (PARTITION BY digest ORDER BY place), 'open', ''
    FROM bank_incoming ORDER BY booked_on, place
    ON CONFLICT (account_id, digest, occurrence) DO NOTHING
"""


def hold_against(statement: Statement) -> None:
    """See that of days which this statement and another cover both have the same lines.

    Raises:
        StatementInvalid: naming the first line that one of them lacks.
    """
    asked = {"account": statement.account_id, "statement": statement.pk, "first": statement.first_day,
             "last": statement.last_day, "whole": statement.whole_days}  # fmt: skip

    def said(amount: Decimal) -> str:
        return f"{exact(amount, statement.account.currency)}"

    with connection.cursor() as cursor:
        cursor.execute(_MISSING_THERE, asked)
        found = cursor.fetchone()
        if found is not None:
            line, day, amount, number, known_day, known_amount = found
            known = f"; it was known with {said(known_amount)} on {known_day}" if known_day else ""
            raise StatementInvalid(
                f"this line of {day}, {said(amount)}, is new, though {_named(number)} covers that day{known}", line
            )
        # Single lines cover no day, and lack nothing.
        if not statement.complete:
            return
        cursor.execute(_MISSING_HERE, asked)
        found = cursor.fetchone()
        if found is not None:
            day, amount, reference, number = found
            named = f" ({reference})" if reference else ""
            raise StatementInvalid(
                f"it covers {day}, and lacks a line of that day that {_named(number)} has: {said(amount)}{named}"
            )


def _named(number: str) -> str:
    return f"statement {number}" if number else "an earlier one"


# The first one alone is looked for among what was known before: of each line, that would be all lines times all.
_MISSING_THERE = """
    WITH missing AS (
        SELECT line.line, line.booked_on, line.amount, line.reference, other.number
        FROM bank_bankline AS line JOIN bank_statement AS other
          ON other.account_id = line.account_id AND other.id <> line.statement_id AND other.complete
         AND ((other.whole_days AND line.booked_on BETWEEN other.first_day AND other.last_day)
              OR (line.booked_on > other.first_day AND line.booked_on < other.last_day))
        WHERE line.account_id = %(account)s AND line.statement_id = %(statement)s
        ORDER BY line.line, line.id LIMIT 1)
    SELECT missing.line, missing.booked_on, missing.amount, missing.number, known.booked_on, known.amount
    FROM missing LEFT JOIN LATERAL (
        SELECT was.booked_on, was.amount FROM bank_bankline AS was
        WHERE was.account_id = %(account)s AND was.statement_id <> %(statement)s
          AND was.reference = missing.reference AND was.reference <> ''
        ORDER BY was.id LIMIT 1
    ) AS known ON true
"""
_MISSING_HERE = """
    SELECT line.booked_on, line.amount, line.reference, other.number
    FROM bank_bankline AS line JOIN bank_statement AS other ON other.id = line.statement_id
    WHERE line.account_id = %(account)s AND line.statement_id <> %(statement)s
      AND ((%(whole)s AND line.booked_on BETWEEN %(first)s AND %(last)s)
           OR (line.booked_on > %(first)s AND line.booked_on < %(last)s))
      AND line.occurrence > (SELECT count(*) FROM bank_incoming AS here WHERE here.digest = line.digest)
    ORDER BY line.booked_on, line.id LIMIT 1
"""
