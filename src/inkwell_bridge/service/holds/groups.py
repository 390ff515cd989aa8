"""What is held, by cause and by the value that is to blame, with the money behind each."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import connection as database
from django.db.models import QuerySet

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.coverage import Aspect, MetValue, Standing, Suggestion, suggestion
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.totals import amounts_by_currency
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.reference.pinned import master_data_of, newest_master_data

HELD = (CrossingState.HELD.value, CrossingState.DIFFERS.value)
# Causes that lie with a value of the document, such as a tax class: each value is mended by itself.
OF_A_VALUE = (Cause.TAX_CLASS_UNMAPPED, Cause.RULE_MISSING, Cause.ITEM_UNCLEAR, Cause.CURRENCY_NOT_KEPT)
MOST_GROUPS = 500
_NO_FINDING = {"id": "", "level": "error", "text": "", "hint": "", "at": "", "line": None, "cause": None}
# What a finding points at, as rules know it.
_ASPECTS = {
    "tax_class": Aspect.TAX_CLASS,
    "method": Aspect.METHOD,
    "gateway": Aspect.GATEWAY,
    "brand": Aspect.BRAND,
    "kind": Aspect.TENDER,
    "sku": Aspect.PRODUCT,
    "barcode": Aspect.PRODUCT,
    "product_id": Aspect.PRODUCT,
    "currency": Aspect.CURRENCY,
}
# The tables of the rulebook that a value is mapped by.
_TABLES = {
    Aspect.TAX_CLASS: "/tax_codes/by_class",
    Aspect.METHOD: "/payments/accounts/by_method",
    Aspect.GATEWAY: "/payments/accounts/by_gateway",
    Aspect.BRAND: "/payments/accounts/by_brand",
    Aspect.TENDER: "/payments/accounts/by_tender",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Documents that wait for one thing.

    ``value`` is what is to blame, where it is one value of the documents, and ``mapped_at`` the key of the rulebook
    (a JSON Pointer) that would map it, where one would; ``linked_as`` is the kind of link that would mend it, where the
    value is an article that is no item of the books. ``finding`` is that of the oldest of them.
    ``suggestion`` is what would map the value, where something speaks for it.
    """

    bridge: str
    bridge_name: str
    lane: str
    state: str
    cause: str
    aspect: str
    value: str
    mapped_at: str
    linked_as: str
    count: int
    amounts: dict[str, Decimal]
    oldest: int
    oldest_number: str
    oldest_at: datetime | None
    finding: Mapping[str, Any]
    suggestion: Suggestion | None


def groups(workspace: Workspace, *, bridge: str = "", cause: str = "", lane: str = "") -> list[Group]:
    """What is held, the most documents first; three statements, and one a bridge whose values could be mapped."""
    bridges = {one.pk: one for one in Bridge.current.select_related("books__workspace").filter(workspace=workspace)}
    with database.cursor() as cursor:
        cursor.execute(
            _GROUPS,
            {"workspace": workspace.pk, "states": list(HELD), "of_a_value": [one.value for one in OF_A_VALUE],
             "bridges": [pk for pk, one in bridges.items() if bridge in ("", one.slug)], "cause": cause, "lane": lane,
             "most": MOST_GROUPS},
        )  # fmt: skip
        rows = cursor.fetchall()
    books = {pk: newest_master_data(bridges[pk].books) for pk in {row[0] for row in rows if row[4]}}
    rates = _rates([row[7] for row in rows if row[4]])
    found = []
    for pk, kind, state, why, value, count, amounts, oldest, number, at, finding in rows:
        said = {**_NO_FINDING, **(json.loads(finding) if finding else {})}
        aspect = _aspect(said, value)
        load = books.get(pk)
        found.append(
            Group(
                bridge=bridges[pk].slug, bridge_name=bridges[pk].name, lane=kind, state=state, cause=why,
                aspect=aspect.value if aspect else "", value=value, count=count,
                mapped_at=f"{_TABLES[aspect]}/{escaped(value)}" if aspect in _TABLES else "",
                linked_as=LinkKind.PRODUCTS.value if aspect is Aspect.PRODUCT and why == Cause.ITEM_UNCLEAR else "",
                amounts=amounts_by_currency(amounts),
                oldest=oldest, oldest_number=number, oldest_at=at, finding=said,
                suggestion=(
                    _suggestion(aspect, value, count, rates.get(oldest, {}).get(value, ()), master_data_of(load))
                    if aspect and load else None
                ),
            )
        )  # fmt: skip
    return found


# The value that the first error points at (a JSON Pointer, RFC 6901) in what was fetched.
VALUE = """
    CASE WHEN crossing.cause = ANY(%(of_a_value)s) THEN coalesce(
        snapshot.content #>> string_to_array(ltrim((
            SELECT finding ->> 'at' FROM jsonb_array_elements(crossing.findings) AS finding
            WHERE finding ->> 'level' = 'error' LIMIT 1), '/'), '/'), '') ELSE '' END
"""
_GROUPS = f"""
    WITH held AS (
        SELECT crossing.*, {VALUE} AS value,
               (SELECT finding FROM jsonb_array_elements(crossing.findings) AS finding
                WHERE finding ->> 'level' = 'error' LIMIT 1) AS finding
        FROM carriage_crossing AS crossing JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
        WHERE crossing.workspace_id = %(workspace)s AND crossing.state = ANY(%(states)s)
          AND crossing.bridge_id = ANY(%(bridges)s)
          AND (%(cause)s = '' OR crossing.cause = %(cause)s) AND (%(lane)s = '' OR crossing.kind = %(lane)s)),
    summed AS (
        SELECT bridge_id, kind, state, cause, value, currency, count(*) AS number, sum(gross) AS gross
        FROM held GROUP BY 1, 2, 3, 4, 5, 6),
    oldest AS (
        SELECT DISTINCT ON (bridge_id, kind, state, cause, value)
               bridge_id, kind, state, cause, value, id, number, moment, finding
        FROM held ORDER BY bridge_id, kind, state, cause, value, moment NULLS LAST, id)
    SELECT bridge_id, kind, state, cause, value, sum(summed.number)::int AS documents,
           json_object_agg(summed.currency, summed.gross::text) FILTER (WHERE summed.currency <> '')::text,
           min(oldest.id), min(oldest.number), min(oldest.moment), min(oldest.finding::text)
    FROM summed JOIN oldest USING (bridge_id, kind, state, cause, value)
    GROUP BY 1, 2, 3, 4, 5 ORDER BY documents DESC, 1, 2, 4, 5 LIMIT %(most)s
"""  # noqa: S608 nothing of what is asked stands in it


def of_group(
    workspace: Workspace, *, bridge: str, cause: str, lane: str = "", value: str | None = None
) -> QuerySet[Crossing]:  # fmt: skip
    """The documents of a group, the oldest first; of all values, where none is named."""
    rows = Crossing.objects.filter(
        workspace=workspace, bridge__slug=bridge, bridge__removed_at__isnull=True, state__in=HELD, cause=cause
    )
    if lane:
        rows = rows.filter(kind=lane)
    if value is None:
        return rows.order_by("moment", "pk")
    with database.cursor() as cursor:
        cursor.execute(
            _OF_VALUE,
            {"workspace": workspace.pk, "states": list(HELD), "bridge": bridge, "cause": cause, "value": value,
             "of_a_value": [one.value for one in OF_A_VALUE]},
        )  # fmt: skip
        keys = [row[0] for row in cursor.fetchall()]
    return rows.filter(pk__in=keys).order_by("moment", "pk")


_OF_VALUE = f"""
    SELECT crossing.id FROM carriage_crossing AS crossing
    JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
    JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    WHERE crossing.workspace_id = %(workspace)s AND crossing.state = ANY(%(states)s) AND bridge.slug = %(bridge)s
      AND bridge.removed_at IS NULL AND crossing.cause = %(cause)s AND {VALUE} = %(value)s
"""  # noqa: S608 nothing of what is asked stands in it


def _aspect(finding: Mapping[str, Any], value: str) -> Aspect | None:
    last = str(finding.get("at", "")).rpartition("/")[2]
    return _ASPECTS.get(last) if value else None


def _suggestion(aspect: Aspect, value: str, count: int, rates: tuple[Decimal, ...], books: Any) -> Suggestion | None:
    met = MetValue(aspect=aspect, value=value, standing=Standing.UNMAPPED, orders=count, rates=rates)
    return suggestion(met, books)


def _rates(crossings: Sequence[int]) -> dict[int, dict[str, tuple[Decimal, ...]]]:
    """The rates that each of these documents was charged at, by tax class; one statement."""
    found: dict[int, dict[str, tuple[Decimal, ...]]] = {}
    rows = Crossing.objects.filter(pk__in=crossings, kind="orders").values_list("pk", "snapshot__content")
    for pk, content in rows:
        rates: dict[str, set[Decimal]] = defaultdict(set)
        for charge in Order.read(content).charges if content else ():
            rates[charge.tax_class].update(tax.rate_percent for tax in charge.taxes)
        found[pk] = {name: tuple(sorted(some)) for name, some in rates.items()}
    return found
