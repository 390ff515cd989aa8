"""What the books and the link table say of the articles of one order: looked up once, and kept with its crossing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from django.db.models import Q

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.comparing import barcode_key, code_key
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.core.planner import Article, Articles, Asked, LinkedItem, asked_of
from inkwell_bridge.core.rulebook.items import ItemRules
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.reference.models import Loading, LoadingState, Part


def articles_for(order: Order, bridge: Bridge, rules: ItemRules | None) -> Articles:
    """What is known of the order's articles now; four statements, however many there are."""
    asked = asked_of(order) if rules is not None else ()
    if not asked:
        return Articles()
    between = Between.of(bridge, LinkKind.PRODUCTS)
    by_code, by_barcode = _items(between, asked)
    products = _products(between, asked)
    links = _links(between, {key for keys in products.values() for key in keys})
    known = {}
    for one in asked:
        linked = next((links[key] for key in products[one.name] if key in links), None)
        known[one.name] = Article(
            by_sku=tuple(by_code.get(code_key(one.sku), ())) if one.sku else (),
            by_barcode=tuple(by_barcode.get(barcode_key(one.barcode), ())) if one.barcode else (),
            linked=linked,
        )
    newest = between.changes().values_list("pk", flat=True).first()
    return Articles(known=known, links=newest)


def never_loaded(bridge: Bridge, rules: ItemRules | None) -> Finding | None:
    """An error where lines are to stand on items, and nobody has loaded these yet."""
    if rules is None or set(rules.find_by) == {"link"}:
        return None
    ended = Loading.objects.filter(connection=bridge.books, part=Part.ITEMS, state=LoadingState.ENDED)
    if ended.exists():
        return None
    return Finding(
        id="ITEM-E003",
        level=Level.ERROR,
        cause=Cause.REFERENCE_MISSING,
        text=f"Lines are to stand on items, and those of {bridge.books.name} were never loaded.",
        hint=f"Load the items of {bridge.books.name}, then release the order.",
    )


def _items(between: Between, asked: Iterable[Asked]) -> tuple[dict[str, list[str]], dict[str, list[str]]]:
    """The codes of the books' items by the key of their code, and by that of their barcode."""
    codes = {code_key(one.sku) for one in asked if one.sku}
    barcodes = {barcode_key(one.barcode) for one in asked if one.barcode}
    rows = between.kept().filter(Q(code_key__in=codes) | Q(barcode_key__in=barcodes), active=True).exclude(code="")
    by_code, by_barcode = defaultdict(list), defaultdict(list)
    for code, key, barcode in rows.order_by("code").values_list("code", "code_key", "barcode_key"):
        by_code[key].append(code)
        if barcode:
            by_barcode[barcode].append(code)
    return by_code, by_barcode


def _products(between: Between, asked: Iterable[Asked]) -> dict[str, list[str]]:
    """For each article the ids that the sales side may know its product by, the order's own word first."""
    codes = {code_key(one.sku) for one in asked if one.sku}
    by_code = defaultdict(list)
    for source_id, key in between.sold().filter(code_key__in=codes).values_list("source_id", "code_key"):
        by_code[key].append(source_id)
    return {
        one.name: [
            *([one.product_id] if one.product_id else []),
            *(by_code.get(code_key(one.sku), ()) if one.sku else ()),
        ]
        for one in asked
    }


def _links(between: Between, keys: Iterable[str]) -> dict[str, tuple[LinkedItem, ...]]:
    """The items that products are linked to; none for one that has no counterpart."""
    found: dict[str, list[LinkedItem]] = defaultdict(list)
    rows = between.links().filter(key__in=keys).order_by("pk")
    for link in rows:
        there = found[link.key]
        if link.target_code:
            there.append(LinkedItem(code=link.target_code, quantity=link.quantity.normalize(), share=link.share))
    return {key: tuple(items) for key, items in found.items()}
