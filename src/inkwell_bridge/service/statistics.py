"""What PostgreSQL knows of how its rows are spread: told anew after many were written at once.

Until it looks by itself, it would plan for the table as it was before, and go through all of it for every row.
"""

from __future__ import annotations

from django.db import connection, models

MANY = 1000


def analyse_table(model: type[models.Model]) -> None:
    """Have the rows of a model looked at."""
    with connection.cursor() as cursor:
        cursor.execute(f'ANALYZE "{model._meta.db_table}"')
