"""Products, customers, items and contacts by the names that people give: the id of their end, or their code."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Set

from django.db.models import Q, QuerySet
from rest_framework import serializers

from inkwell_bridge.core.comparing import code_key
from inkwell_bridge.service.reference.models import Entry


def entries_named(rows: QuerySet[Entry], names: Set[str], *, where: str) -> tuple[dict[str, Entry], list[str]]:
    """Each of ``names`` with the entry that has that id, or else that code; and what is wrong with the others.

    ``where`` is the end that has them, as a sentence begins with it. One statement.
    """
    keys = {code_key(name) for name in names}
    by_id: dict[str, Entry] = {}
    by_code: dict[str, list[Entry]] = defaultdict(list)
    for entry in rows.filter(Q(source_id__in=names) | Q(code_key__in=keys - {""})):
        by_id[entry.source_id] = entry
        by_code[entry.code_key].append(entry)
    found, wrong = {}, []
    for name in sorted(names):
        of_code = by_code.get(code_key(name), [])
        if name in by_id:
            found[name] = by_id[name]
        elif len(of_code) == 1:
            found[name] = of_code[0]
        elif of_code:
            ids = ", ".join(sorted(entry.source_id for entry in of_code))
            wrong.append(f"{where} has {len(of_code)} with the code {name!r}; name one by its id: {ids}.")
        else:
            wrong.append(f"{where} has none with the id or code {name!r}.")
    return found, wrong


def entry_named(rows: QuerySet[Entry], name: str, *, where: str, field: str) -> Entry:
    """The one entry that has that id or code.

    Raises:
        ValidationError: there is none, or several have the code.
    """
    found, wrong = entries_named(rows, {name}, where=where)
    if wrong:
        raise serializers.ValidationError({field: wrong})
    return found[name]
