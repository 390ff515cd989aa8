"""Writing many rows of a table in one statement."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from django.db import connection
from django.db.models import Field, Model


def write_rows(rows: Sequence[Model], fields: Sequence[str]) -> None:
    """Make those of these rows that have no key, and change ``fields`` of the others; a statement a table for each.

    The columns go over as arrays, so that a statement is as short for a thousand rows as for one, and what the rows
    hold is not built into its text. Expects a transaction where all or nothing is to be written.
    """
    by_model: dict[type[Model], list[Model]] = defaultdict(list)
    for row in {id(row): row for row in rows}.values():
        by_model[type(row)].append(row)
    for model, of_model in by_model.items():
        known = [row for row in of_model if row.pk is not None]
        if len(known) < len(of_model):
            model._default_manager.bulk_create([row for row in of_model if row.pk is None])
        if known and fields:
            _update(model, known, fields)


def _update(model: type[Model], rows: Sequence[Model], names: Sequence[str]) -> None:
    fields: list[Field] = [model._meta.get_field(name) for name in names]  # type: ignore[misc]
    columns = [connection.ops.quote_name(field.column) for field in fields]
    values = [[field.get_db_prep_save(field.pre_save(row, False), connection) for row in rows] for field in fields]
    arrays = ", ".join(["%s::bigint[]", *(f"%s::{_type(field)}[]" for field in fields)])
    table = connection.ops.quote_name(model._meta.db_table)
    # Names of columns and types come from the model alone.
    statement = (
        f"UPDATE {table} AS stored SET {', '.join(f'{column} = new.{column}' for column in columns)} "  # noqa: S608
        f"FROM unnest({arrays}) AS new (id, {', '.join(columns)}) WHERE stored.id = new.id"
    )
    with connection.cursor() as cursor:
        cursor.execute(statement, [[row.pk for row in rows], *values])


def _type(field: Field) -> str:
    """The type of a column without its length: a cast to one with a length cuts off silently what is too long, where
    the column itself refuses it."""
    return str(field.db_type(connection)).split("(")[0]
