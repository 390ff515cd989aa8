"""Charges on the books' items: each article as the item it is, or the items that it is made of."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.commerce import Component, Nature, OrderLine
from inkwell_bridge.core.findings import Cause, Finding, source_error
from inkwell_bridge.core.planner.articles import Articles, Asked, LinkedItem, found, said
from inkwell_bridge.core.planner.charges import PlannedCharge
from inkwell_bridge.core.planner.kits import RateOf, shared_out
from inkwell_bridge.core.rulebook.items import ItemRules
from inkwell_bridge.core.rulebook.levels import Chosen

# What can stand on an item; money kept for later is a debt, and no article.
_ARTICLES = frozenset({Nature.GOODS, Nature.DIGITAL, Nature.SERVICE})
ONE = Decimal(1)


def on_items(
    charge: PlannedCharge, rules: ItemRules, articles: Articles, *, currency: str, inclusive: bool, rate_of: RateOf
) -> tuple[list[PlannedCharge], list[Finding]]:
    """A charge on its item; one for each where it is linked to several; itself where it is no article."""
    asked = _asked(charge)
    if asked is None:
        return [charge], []
    what = found(asked, articles, rules)
    if what.several:
        return [charge], [_unclear(charge, asked, what.several)]
    if not what.items:
        # Linked to nothing: a person said that the books have no item for it.
        return ([charge], []) if what.way else _not_found(charge, asked, rules)
    text = said(what.way, ", ".join(one.code for one in what.items))
    chosen = [Chosen(one.code, "/items/find_by", text) for one in what.items]
    # A link may say that one sold is several of the item; then packs are not multiplied in again.
    if len(what.items) == 1:
        (item,) = what.items
        return [replace(charge, item=chosen[0], quantity=charge.quantity * item.quantity,
                        counted=item.quantity != ONE)], []  # fmt: skip
    made, findings = shared_out(charge, _parts(what.items), currency=currency, inclusive=inclusive, rate_of=rate_of)
    return [replace(one, item=item, sku=charge.sku, title=charge.title, counted=True)
            for one, item in zip(made, chosen, strict=True)], findings  # fmt: skip


def _asked(charge: PlannedCharge) -> Asked | None:
    line = charge.charge
    if not isinstance(line, OrderLine) or charge.nature not in _ARTICLES:
        return None
    if charge.sku != line.sku:
        # An article out of a kit is known by its SKU alone.
        return Asked(sku=charge.sku)
    asked = Asked(sku=line.sku, barcode=line.barcode, product_id=line.product_id)
    return asked if any(asked) else None


def _parts(items: tuple[LinkedItem, ...]) -> tuple[Component, ...]:
    return tuple(Component(sku=one.code, quantity=one.quantity, share=one.share) for one in items)


def _not_found(charge: PlannedCharge, asked: Asked, rules: ItemRules) -> tuple[list[PlannedCharge], list[Finding]]:
    if rules.not_found == "hold":
        return [charge], [_unknown(charge, asked)]
    if rules.not_found == "catch-all" and rules.catch_all:
        text = f"The books have no item for {asked.name}: it stands on {rules.catch_all}."
        return [replace(charge, item=Chosen(rules.catch_all, "/items/catch_all", text))], []
    return [charge], []


def _named_at(charge: PlannedCharge, asked: Asked) -> str:
    """Where the article's name stands in the order: what groups holds by article, and offers it to be linked."""
    line = charge.charge
    if isinstance(line, OrderLine) and asked.sku and asked.sku != line.sku:
        part = next((at for at, one in enumerate(line.components) if one.sku == asked.sku), 0)
        return f"{charge.at}/components/{part}/sku"
    name = "sku" if asked.sku else "barcode" if asked.barcode else "product_id"
    return f"{charge.at}/{name}"


def _unknown(charge: PlannedCharge, asked: Asked) -> Finding:
    return source_error(
        "ITEM-E001",
        _named_at(charge, asked),
        f"The books have no item for {asked.name} ('{charge.title[:80]}').",
        "Make the item in the books and load them again, or link the product; then release the order.",
        cause=Cause.ITEM_UNCLEAR,
    )


def _unclear(charge: PlannedCharge, asked: Asked, several: str) -> Finding:
    return source_error(
        "ITEM-E002",
        _named_at(charge, asked),
        f"The books have {several}; which of them is {asked.name} ('{charge.title[:80]}')?",
        "Link the product to the one that is meant and let links go first in items: find_by, or mend the codes "
        "in the books; then release the order.",
        cause=Cause.ITEM_UNCLEAR,
    )
