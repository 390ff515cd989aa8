"""What the books and the link table say of the articles of orders: looked up for many orders, kept with each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

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


def articles_for(orders: Sequence[tuple[Order, ItemRules | None]], bridge: Bridge) -> list[Articles]:
    """What is known now of each order's articles, where its rules look for items; four statements, however many orders
    and articles there are."""
    of_each = [asked_of(order) if rules is not None else () for order, rules in orders]
    asked = [one for of_one in of_each for one in of_one]
    if not asked:
        return [Articles() for _ in orders]
    between = Between.of(bridge, LinkKind.PRODUCTS)
    by_code, by_barcode = _items(between, asked)
    by_sku = _products(between, asked)
    product_ids = {one.product_id for one in asked if one.product_id}
    links = _links(between, product_ids.union(*by_sku.values()))
    newest = between.changes().values_list("pk", flat=True).first()

    def article(one: Asked) -> Article:
        # The order's own word for its product first, then what the sales side has under the same code.
        products = [
            *([one.product_id] if one.product_id else []),
            *by_sku.get(code_key(one.sku) if one.sku else "", ()),
        ]
        return Article(
            by_sku=tuple(by_code.get(code_key(one.sku), ())) if one.sku else (),
            by_barcode=tuple(by_barcode.get(barcode_key(one.barcode), ())) if one.barcode else (),
            linked=next((links[key] for key in products if key in links), None),
        )

    return [
        Articles(known={one.name: article(one) for one in of_one}, links=newest) if of_one else Articles()
        for of_one in of_each
    ]


def finds_items(rules: ItemRules | None) -> bool:
    """Whether lines are to stand on items that are looked for among the books' own."""
    return rules is not None and set(rules.find_by) != {"link"}


def never_loaded(bridge: Bridge) -> Finding | None:
    """An error where nobody has loaded the books' items yet."""
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
    """The ids of the sales side's products by the key of their code."""
    codes = {code_key(one.sku) for one in asked if one.sku}
    by_code = defaultdict(list)
    for source_id, key in between.sold().filter(code_key__in=codes).values_list("source_id", "code_key"):
        by_code[key].append(source_id)
    return by_code


def _links(between: Between, keys: Iterable[str]) -> dict[str, tuple[LinkedItem, ...]]:
    """The items that products are linked to; none for one that has no counterpart."""
    found: dict[str, list[LinkedItem]] = defaultdict(list)
    rows = between.links().filter(key__in=keys).order_by("pk")
    for link in rows:
        there = found[link.key]
        if link.target_code:
            there.append(LinkedItem(code=link.target_code, quantity=link.quantity.normalize(), share=link.share))
    return {key: tuple(items) for key, items in found.items()}
