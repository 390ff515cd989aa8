"""Writing many rows of a table in one statement.

What the rows say goes over as one JSON text, which PostgreSQL takes apart: a statement is as short for a thousand rows
as for one, and nothing is quoted value by value.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import DatabaseError, connection, transaction
from django.db.models import Field, Model, QuerySet

CHUNK = 5000


def remove_in_chunks(rows: QuerySet[Any]) -> int:
    """Remove all of ``rows``, and what hangs on them, a transaction a chunk, the oldest first; answers how many."""
    removed = 0
    while True:
        keys = list(rows.order_by("pk").values_list("pk", flat=True)[:CHUNK])
        rows.model._default_manager.filter(pk__in=keys).delete()
        removed += len(keys)
        if len(keys) < CHUNK:
            return removed


def write_rows(rows: Sequence[Model], fields: Sequence[str]) -> None:
    """Make those of these rows that have no key, and change ``fields`` of the others; a statement a table for each.

    All or nothing: one transaction, or a part of the one around.

    Raises:
        DatabaseError: a row could not be written, or is gone. Those that were to be made have no key then.
    """
    by_model: dict[type[Model], list[Model]] = defaultdict(list)
    for row in {id(row): row for row in rows}.values():
        by_model[type(row)].append(row)
    fresh = [row for row in rows if row.pk is None]
    try:
        with transaction.atomic():
            for model, of_model in by_model.items():
                known = [row for row in of_model if row.pk is not None]
                insert_rows([row for row in of_model if row.pk is None])
                if fields and len(update_rows(known, fields)) < len({row.pk for row in known}):
                    # What was to be written down first must never be taken for written.
                    raise DatabaseError(f"a row of {model._meta.db_table} is gone")
    except Exception:
        for row in fresh:
            row.pk, row._state.adding = None, True
        raise


def insert_rows(rows: Sequence[Model]) -> None:
    """Make these rows, all of one table, and give them their keys."""
    if not rows:
        return
    model = type(rows[0])
    fields = [field for field in model._meta.concrete_fields if not field.primary_key]
    columns = ", ".join(_column(field) for field in fields)
    statement = (
        f"INSERT INTO {_table(model)} ({columns}) SELECT {columns} FROM {_recordset(fields, 'place bigint')} "  # noqa: S608
        "ORDER BY place RETURNING id"
    )
    with connection.cursor() as cursor:
        cursor.execute(statement, [_said(rows, fields, place=range(len(rows)), add=True)])
        for row, (key,) in zip(rows, cursor.fetchall(), strict=True):
            row.pk, row._state.adding, row._state.db = key, False, connection.alias


def update_rows(rows: Sequence[Model], fields: Sequence[str], *, unless_changed: str = "") -> set[int]:
    """Change ``fields`` of these rows, all of one table; answers the keys of those that were changed.

    With ``unless_changed``, only of those that still have the row's own value there.
    """
    if not rows:
        return set()
    model = type(rows[0])
    written = [_field(model, name) for name in fields]
    compared = [_field(model, unless_changed)] if unless_changed else []
    changes = ", ".join(f"{_column(field)} = new.{_column(field)}" for field in written)
    still = "".join(f" AND stored.{_column(field)} = new.{_column(field)}" for field in compared)
    statement = (
        f"UPDATE {_table(model)} AS stored SET {changes} "  # noqa: S608
        f"FROM {_recordset([*written, *compared], 'place bigint')} WHERE stored.id = new.place{still} "
        "RETURNING stored.id"
    )
    with connection.cursor() as cursor:
        cursor.execute(statement, [_said(rows, [*written, *compared], place=[row.pk for row in rows], add=False)])
        return {row[0] for row in cursor.fetchall()}


def _said(rows: Sequence[Model], fields: Sequence[Field], *, place: Sequence[int], add: bool) -> str:
    """The rows as JSON. Moments and amounts are texts in it, so that no digit is lost on the way."""
    dated = [field for field in fields if getattr(field, "auto_now", False) or (add and _dated_at_first(field))]
    for row in rows:
        for field in dated:
            field.pre_save(row, add)
    names = [(field.column, field.attname) for field in fields]
    return json.dumps(
        [
            {"place": key, **{column: _value(getattr(row, attribute)) for column, attribute in names}}
            for key, row in zip(place, rows, strict=True)
        ],
        ensure_ascii=False,
    )


def _dated_at_first(field: Field) -> bool:
    return bool(getattr(field, "auto_now_add", False))


def _value(value: Any) -> Any:
    return str(value) if isinstance(value, date | Decimal) else value


def _recordset(fields: Sequence[Field], key: str) -> str:
    columns = ", ".join([key, *(f"{_column(field)} {_type(field)}" for field in fields)])
    return f"jsonb_to_recordset(%s::jsonb) AS new ({columns})"


def _type(field: Field) -> str:
    """The type of a column without its length: what is too long is refused by the column, and not cut off before."""
    return str(field.db_type(connection)).split("(")[0]


def _field(model: type[Model], name: str) -> Field:
    return model._meta.get_field(name)  # type: ignore[return-value]


def _column(field: Field) -> str:
    return connection.ops.quote_name(field.column)


def _table(model: type[Model]) -> str:
    # Names of tables, columns and types come from the models alone.
    return connection.ops.quote_name(model._meta.db_table)
