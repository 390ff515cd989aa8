"""Which document in the books is which order's, whoever typed it: by number, else by amount, day and customer."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import timedelta
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.books import BooksRecord, Payment, SalesOrder, Standing
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.examples.example import Example, Sale
from inkwell_bridge.core.linking import Known
from inkwell_bridge.core.money import minor_unit

# So far apart an order and its document may be dated where nothing but the amount and the customer speaks for them.
MOST_DAYS = 31
MOST_COINS = 5


class Paired(NamedTuple):
    """Orders with what is theirs in the books; ``astray`` are the sales of the books that are no order's."""

    examples: tuple[Example, ...]
    astray: tuple[BooksRecord, ...]


def pair(
    orders: Iterable[Order], records: Iterable[BooksRecord], contacts: Mapping[str, Known] | None = None
) -> Paired:
    """Put each order together with its sale and its money.

    ``contacts`` are those of the books, by their id there. A pair is made where both sides have but one choice: two
    documents with one number, or two orders of one amount by one customer, are left alone, for a wrong example teaches
    a wrong rule.
    """
    every = list(orders)
    known = contacts or {}
    sales, money = [], defaultdict[str, list[BooksRecord]](list)
    for record in records:
        if record.standing is Standing.VOID:
            continue
        if isinstance(record.document, Payment):
            for key in _payment_keys(record):
                money[key].append(record)
        elif isinstance(record.document, Sale):
            sales.append(record)
    found = _by_number(every, sales)
    _by_amount(every, sales, found, known)
    taken = {id(record) for record in found.values()}
    examples = []
    for order in every:
        sale = found.get(order.id)
        paid = _paid(order, sale, money) if sale else ()
        code = _code(known.get(sale.contact_id)) if sale else ""
        examples.append(Example(order=order, records=(sale, *paid) if sale else (), contact=code))
    return Paired(tuple(examples), tuple(record for record in sales if id(record) not in taken))


def _by_number(orders: Sequence[Order], sales: Sequence[BooksRecord]) -> dict[str, BooksRecord]:
    bearing: dict[str, dict[int, BooksRecord]] = defaultdict(dict)
    for record in sales:
        for number in (_sale(record).order_number, _sale(record).external_reference, record.number):
            if number:
                # One that bears it twice, as number and as reference, is still one.
                bearing[_plain(number)][id(record)] = record
    numbers = defaultdict[str, list[Order]](list)
    for order in orders:
        numbers[_plain(order.number)].append(order)
    found = {}
    for number, bearers in numbers.items():
        records = bearing.get(number, {})
        invoiced = [one for one in records.values() if not isinstance(one.document, SalesOrder)] or list(
            records.values()
        )
        if len(bearers) == len(invoiced) == 1:
            found[bearers[0].id] = invoiced[0]
    return found


def _by_amount(
    orders: Sequence[Order], sales: Sequence[BooksRecord], found: dict[str, BooksRecord],
    contacts: Mapping[str, Known],
) -> None:  # fmt: skip
    """Pair what no number put together: the same total and currency, near in time, and nothing known of the customer
    that speaks against it. Of the same customer the books may have computed a few pence otherwise."""
    taken = {id(record) for record in found.values()}
    open_sales = defaultdict[tuple[str, Decimal], list[BooksRecord]](list)
    for record in sales:
        if id(record) not in taken:
            gross = record.gross if record.gross is not None else _sale(record).gross
            open_sales[_sale(record).currency, gross].append(record)
    wanting = [order for order in orders if order.id not in found]
    may_be: dict[str, list[BooksRecord]] = {}
    claimed = defaultdict[int, int](int)
    for order in wanting:
        likely = [
            (record, gross == order.total, _same_customer(order, contacts.get(record.contact_id)))
            for gross in totals_like(order.total, order.currency)
            for record in open_sales.get((order.currency, gross), ())
            if abs(_sale(record).date - order.placed_at.date()) <= timedelta(days=MOST_DAYS)
        ]
        sure = [record for record, _, same in likely if same]
        near = [record for record, exactly, same in likely if exactly and same is None]
        may_be[order.id] = sure or near
        for record in may_be[order.id]:
            claimed[id(record)] += 1
    for order in wanting:
        if len(may_be[order.id]) == 1 and claimed[id(may_be[order.id][0])] == 1:
            found[order.id] = may_be[order.id][0]


def totals_like(total: Decimal, currency: str) -> list[Decimal]:
    """The totals that books may have computed for an order of this total: up to a few of the smallest coins apart."""
    unit = minor_unit(currency)
    return [total, *(total + sign * count * unit for count in range(1, MOST_COINS + 1) for sign in (1, -1))]


def _same_customer(order: Order, contact: Known | None) -> bool | None:
    """Whether a contact is the order's buyer; nothing where neither name nor e-mail can be compared."""
    buyer = order.buyer
    if buyer is None or contact is None:
        return None
    if buyer.email and contact.email:
        return _plain(buyer.email) == _plain(contact.email)
    names = {_plain(name) for name in (buyer.name, buyer.company) if name}
    return _plain(contact.name) in names if names and contact.name else None


def _paid(order: Order, sale: BooksRecord, money: Mapping[str, Sequence[BooksRecord]]) -> tuple[BooksRecord, ...]:
    keys = (_plain(order.number), _plain(_sale(sale).external_reference), _plain(sale.number))
    found = {record.id: record for key in dict.fromkeys(keys) if key for record in money.get(key, ())}
    return tuple(found.values())


def _payment_keys(record: BooksRecord) -> set[str]:
    payment = record.document
    assert isinstance(payment, Payment), "asked of payments"
    said = (payment.order_number, *(one.external_reference for one in payment.applied))
    return {_plain(one) for one in said if one}


def _sale(record: BooksRecord) -> Sale:
    assert isinstance(record.document, Sale), "asked of sales"
    return record.document


def _code(contact: Known | None) -> str:
    return contact.code if contact else ""


def _plain(text: str) -> str:
    # Typed by hand: a blank too many or another case is the same number.
    return text.strip().casefold()
