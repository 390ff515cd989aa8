"""The accounts of money that rules name: what each is for, and whether the books tell of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from inkwell_bridge.core.books import AccountType, BooksCapabilities
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import all_in_force
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.reference.pinned import master_data_of, newest_master_data

_OF_MONEY = (AccountType.BANK, AccountType.ASSET)


class Purpose(StrEnum):
    """What an account of money is for, by the rules."""

    CLEARING = "clearing"
    ON_ITS_WAY = "on its way to the bank"
    RESERVES = "reserves"
    BANK = "bank"
    TENDER = "money of buyers"


# The roles of a payout (core.rulebook.payouts) on whose accounts money stands.
_OF_PAYOUTS = {"clearing": Purpose.CLEARING, "on_its_way": Purpose.ON_ITS_WAY, "reserves": Purpose.RESERVES,
               "bank": Purpose.BANK}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyAccount:
    """An account that rules in force name, with the newest proof of it; ``told`` is whether the books tell of it."""

    books: Connection
    code: str
    name: str
    currency: str
    purposes: tuple[Purpose, ...]
    told: bool
    newest: ClearingProof | None = None


def accounts_of(workspace: Workspace) -> list[MoneyAccount]:
    """Every account of money that the rules in force name, by books and code. A few statements, whatever their
    number."""
    bridges = list(Bridge.current.filter(workspace=workspace).select_related("books").order_by("books__slug"))
    purposes: dict[tuple[Connection, str], set[Purpose]] = defaultdict(set)
    for bridge, rules in all_in_force(bridges):
        for purpose, code in _named_by(rules):
            purposes[bridge.books, code].add(purpose)
    charts = {books: _chart(books) for books in {books for books, _ in purposes}}
    newest = {(one.books_id, one.account): one for one in _newest(workspace)}
    return [
        MoneyAccount(
            books=books, code=code, name=charts[books].names.get(code, ""), currency=charts[books].currency,
            purposes=tuple(one for one in Purpose if one in purposes[books, code]), told=tells(books),
            newest=newest.get((books.pk, code)),
        )
        for books, code in sorted(purposes, key=lambda key: (key[0].slug, key[1]))
        # Money of buyers may stand on what is owed to them as well: that is no money, and invoices are on it too.
        if code in charts[books].names
    ]  # fmt: skip


def tells(books: Connection) -> bool:
    """Whether these books tell what stands on an account."""
    capabilities = dialect_of(books).capabilities
    return isinstance(capabilities, BooksCapabilities) and capabilities.tells_accounts


def currency_of(books: Connection) -> str:
    """The company's own currency, as the books told it; nothing where they were never asked."""
    return _chart(books).currency


def is_of_money(books: Connection, account: str) -> bool:
    """Whether the books have that account, for a bank or another asset, as far as was loaded."""
    return account in _chart(books).names


class Use(NamedTuple):
    """What an account is for, by the rules in force of all bridges to its books, and the bridges whose payouts clear
    it."""

    purposes: set[Purpose]
    cleared_by: list[int]


def use_of(books: Connection, account: str) -> Use:
    """What an account of these books is for; two statements."""
    purposes: set[Purpose] = set()
    cleared_by: list[int] = []
    for bridge, rules in all_in_force(Bridge.current.filter(books=books)):
        named = {purpose for purpose, code in _named_by(rules) if code == account}
        purposes |= named
        cleared_by += [bridge.pk] if Purpose.CLEARING in named else []
    return Use(purposes, cleared_by)


def _named_by(rules: Rulebook) -> Iterator[tuple[Purpose, str]]:
    for role, code in rules.payouts.codes if rules.payouts else ():
        if role in _OF_PAYOUTS:
            yield _OF_PAYOUTS[role], code
    if rules.requests is not None:
        yield Purpose.TENDER, rules.requests.account
    if rules.payments is not None:
        for _, code in rules.payments.accounts.codes():
            yield Purpose.TENDER, code


def _newest(workspace: Workspace) -> list[ClearingProof]:
    rows = ClearingProof.objects.filter(workspace=workspace).defer("result")
    return list(rows.order_by("books_id", "account", "-id").distinct("books_id", "account"))


class _Chart(NamedTuple):
    """The accounts of money of some books, and their currency."""

    names: dict[str, str]
    currency: str


def _chart(books: Connection) -> _Chart:
    load = newest_master_data(books)
    if load is None:
        return _Chart({}, "")
    found = master_data_of(load)
    return _Chart({one.code: one.name for one in found.accounts if one.type in _OF_MONEY}, found.currency)
