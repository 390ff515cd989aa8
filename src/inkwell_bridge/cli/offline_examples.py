"""Examples out of files, and rules learnt from them with no service."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from inkwell_bridge.cli.files import NotRight, json_line, lines_of
from inkwell_bridge.cli.offline import capabilities_of, document_in, value_of
from inkwell_bridge.core.books import BooksRecord, MasterData
from inkwell_bridge.core.commerce import Order, SourceKind
from inkwell_bridge.core.examples import Example, NothingLearnt, Proposal, pair, propose
from inkwell_bridge.core.planner import articles_of

_BOOKS = "books"


def learnt(
    files: Sequence[Path], master_data: Path, *, name: str, books: str, time_zone: str, country: str, least: int
) -> Proposal:
    """Rules learnt from files of examples; a record that names no order is paired by number, amount and day.

    Raises:
        NotRight: a file cannot be read, or too little stands in them to learn from.
    """
    reference = document_in(MasterData, master_data)
    examples = _examples(files, reference)
    try:
        return propose(name, examples, reference, capabilities_of(books), time_zone=time_zone, country=country,
                       least=least)  # fmt: skip
    except NothingLearnt as error:
        raise NotRight(str(error)) from error


def _examples(files: Sequence[Path], reference: MasterData) -> list[Example]:
    orders: dict[str, Order] = {}
    of_order: dict[str, list[BooksRecord]] = defaultdict(list)
    contacts: dict[str, str] = {}
    unnamed: list[BooksRecord] = []
    for place, line in _lines(files):
        if line["kind"] == SourceKind.ORDERS:
            order = value_of(Order, line.get("document"), place)
            orders[order.id] = order
        elif line["kind"] == _BOOKS:
            record = value_of(BooksRecord, line.get("record"), place)
            if (known := str(line.get("order") or "")) != "":
                of_order[known].append(record)
                contacts[known] = str(line.get("contact") or contacts.get(known, ""))
            else:
                unnamed.append(record)
    paired = {one.order.id: one for one in pair(
        [order for order in orders.values() if order.id not in of_order], unnamed).examples}  # fmt: skip
    return [
        Example(
            order=order,
            records=tuple(of_order[order.id]) if order.id in of_order else paired[order.id].records,
            contact=contacts.get(order.id, ""),
            articles=articles_of(order, reference, {}),
        )
        for order in orders.values()
    ]


def _lines(files: Sequence[Path]) -> Iterator[tuple[str, dict[str, Any]]]:
    for file in files:
        for place, line in lines_of(file):
            said = json_line(line, place, made_by="inkwell rulebooks propose --examples")
            if not isinstance(said, dict) or "kind" not in said:
                raise NotRight(f"{place}: expected an object with kind (orders or books).")
            yield place, said
