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

from django.db import connection
from django.db.models import Field, Model


def write_rows(rows: Sequence[Model], fields: Sequence[str]) -> None:
    """Make those of these rows that have no key, and change ``fields`` of the others; a statement a table for each.

    Expects a transaction where all or nothing is to be written.
    """
    by_model: dict[type[Model], list[Model]] = defaultdict(list)
    for row in {id(row): row for row in rows}.values():
        by_model[type(row)].append(row)
    for model, of_model in by_model.items():
        known = [row for row in of_model if row.pk is not None]
        insert_rows([row for row in of_model if row.pk is None])
        if known and fields:
            _update(model, known, [_field(model, name) for name in fields])


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


def _update(model: type[Model], rows: Sequence[Model], fields: Sequence[Field]) -> None:
    changes = ", ".join(f"{_column(field)} = new.{_column(field)}" for field in fields)
    statement = (
        f"UPDATE {_table(model)} AS stored SET {changes} FROM {_recordset(fields, 'place bigint')} "  # noqa: S608
        "WHERE stored.id = new.place"
    )
    with connection.cursor() as cursor:
        cursor.execute(statement, [_said(rows, fields, place=[row.pk for row in rows], add=False)])


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
