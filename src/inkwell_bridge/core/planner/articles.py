"""What the books and the link table say of the articles of one order, and which item each of them is."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import Order, OrderLine
from inkwell_bridge.core.comparing import barcode_key, code_key
from inkwell_bridge.core.rulebook.items import ItemRules
from inkwell_bridge.core.values import Code, Exact, Text, Value

ONE = Decimal(1)


class LinkedItem(Value):
    """One item that a person, an import or a rule linked to an article.

    Units: one sold is ``quantity`` of the item; ``share`` is its part of the article's price.
    """

    code: Code
    quantity: Exact = ONE
    share: Exact | None = None


class Article(Value):
    """What is known of one article; ``linked`` is empty where it has no counterpart, absent where nobody said."""

    by_sku: tuple[Code, ...] = ()
    by_barcode: tuple[Code, ...] = ()
    linked: tuple[LinkedItem, ...] | None = None


class Articles(Value):
    """What is known of each article of one order, by its name in ``named``; ``links`` is the version of the links."""

    known: dict[str, Article] = {}
    links: int | None = None


class Asked(NamedTuple):
    """One article that is asked for: what an order says of it."""

    sku: str
    barcode: str = ""
    product_id: str = ""

    @property
    def name(self) -> str:
        """The article's name among those of its order."""
        return self.sku or (f"barcode {self.barcode}" if self.barcode else f"product {self.product_id}")


class Found(NamedTuple):
    """The items of an article, the way they were found, and what there is to say where none was."""

    items: tuple[LinkedItem, ...] = ()
    way: str = ""
    several: str = ""


def asked_of(order: Order) -> tuple[Asked, ...]:
    """Every article of an order, those in its kits among them, each once."""
    return tuple({one.name: one for line in order.lines for one in _asked(line)}.values())


def _asked(line: OrderLine) -> Iterator[Asked]:
    if line.sku or line.barcode or line.product_id:
        yield Asked(sku=line.sku, barcode=line.barcode, product_id=line.product_id)
    for part in line.components:
        yield Asked(sku=part.sku)


def found(asked: Asked, articles: Articles, rules: ItemRules) -> Found:
    """The items of an article: the first way that finds exactly one wins; several are a question for a person."""
    known = articles.known.get(asked.name, Article())
    # Several by one way are only a question where no later way finds exactly one.
    several = ""
    for way in rules.find_by:
        if way == "link":
            if known.linked is not None:
                return Found(items=known.linked, way=way)
            continue
        codes = known.by_sku if way == "sku" else known.by_barcode
        if len(codes) == 1:
            return Found(items=(LinkedItem(code=codes[0]),), way=way)
        if codes and not several:
            several = f"{len(codes)} items by its {_SAID[way]}: {', '.join(codes[:5])}"
    return Found(several=several)


_SAID = {"sku": "SKU", "barcode": "barcode", "link": "link"}


def articles_of(order: Order, master_data: MasterData, links: Mapping[str, Sequence[LinkedItem]]) -> Articles:
    """What lists at hand say: the items of the books' lists, and links by the code or the id of a product."""
    items = master_data.items or ()
    linked = {code_key(key): tuple(there) for key, there in links.items()}
    by_code = _by_key((code_key(item.code), item.code) for item in items)
    by_barcode = _by_key((barcode_key(item.barcode), item.code) for item in items if item.barcode)
    return Articles(
        known={
            one.name: Article(
                by_sku=by_code.get(code_key(one.sku), ()) if one.sku else (),
                by_barcode=by_barcode.get(barcode_key(one.barcode), ()) if one.barcode else (),
                linked=linked.get(code_key(one.product_id), linked.get(code_key(one.sku))),
            )
            for one in asked_of(order)
        }
    )


def _by_key(pairs: Iterable[tuple[str, str]]) -> dict[str, tuple[str, ...]]:
    keyed: dict[str, tuple[str, ...]] = {}
    for key, code in pairs:
        keyed[key] = (*keyed.get(key, ()), code)
    return keyed


def said(way: str, text: Text) -> str:
    """How an item was found, in words."""
    return f"Item {text}, found by its {_SAID[way]}."
