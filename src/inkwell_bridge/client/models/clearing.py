"""Accounts of money and their proofs, as the service answers them. Amounts are in the company's own currency, a debit
positive."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer, AskedWork


class ClearingProofHead(AskedWork):
    """How far a proof is, and whether both sides are the same, item by item."""

    books: str
    account: str
    first: date
    last: date
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    proves: bool | None


class MoneyAccount(Answer):
    """An account of money that rules in force name, what it is for, and the newest proof of it."""

    books: str
    account: str
    name: str
    currency: str
    purposes: list[str]
    told: bool
    newest: ClearingProofHead | None


class AccountDay(Answer):
    """A day on which something moved; ``difference`` is what the books have more."""

    day: date
    opening: Decimal
    amounts: dict[str, Decimal]
    closing: Decimal
    books: Decimal
    difference: Decimal


class AccountDifference(Answer):
    """Items that differ for one reason, and what the books have more by them."""

    why: str
    count: int
    amount: Decimal


class DifferingItem(Answer):
    """A document that is not the same on both sides."""

    why: str
    reference: str
    number: str
    text: str
    documents: int
    our_day: date | None
    our_amount: Decimal | None
    books_day: date | None
    books_amount: Decimal | None
    amount: Decimal
    crossing: int | None
    source_number: str


class StandingItem(Answer):
    """A transaction or a payout of which something stands on the account."""

    why: str
    number: str
    transaction: str
    payout: str
    crossing: int | None
    day: date
    received: Decimal
    cleared: Decimal
    amount: Decimal


class Aged(Answer):
    """What is not older than so many days, and older than the age before."""

    up_to: int | None
    count: int
    amount: Decimal


class Standing(Answer):
    """What stands on the account at the end of the last day."""

    from_elsewhere: Decimal
    other_journals: Decimal
    count: int
    amount: Decimal
    ages: list[Aged]
    items: list[StandingItem]
    not_accounted_for: Decimal


class AtBank(Answer):
    """The account beside the bank's statement, at the end of the last day that it covers."""

    day: date
    balance: Decimal
    books: Decimal
    opening_difference: Decimal
    open_lines: Decimal
    excluded_lines: Decimal
    not_accounted_for: Decimal


class OneSided(Answer):
    """Money that one side does not know, or knows with another amount."""

    transaction: str
    number: str
    crossing: int | None
    day: date
    # None is not known there at all, which zero would not say.
    here: Decimal | None
    there: Decimal | None


class AtProvider(Answer):
    """The account beside the provider's own ledger: its entries that stand in no payout, by column, what stands here of
    that, and what only one side has."""

    provider: str
    day: date
    columns: list[str]
    amounts: dict[str, Decimal]
    balance: Decimal
    here: Decimal
    only_here: Decimal
    only_there: Decimal
    otherwise: Decimal
    count: int
    items: list[OneSided]
    trouble: str


class AccountProof(Answer):
    """The account over the days."""

    currency: str
    opening: Decimal
    amounts: dict[str, Decimal]
    closing: Decimal
    books: Decimal
    days: list[AccountDay]
    differences: list[AccountDifference]
    differing: list[DifferingItem]
    unexplained: Decimal
    standing: Standing | None = None
    at_bank: AtBank | None = None
    at_provider: AtProvider | None = None


class ClearingProof(ClearingProofHead):
    """A proof with what came of it, once it has ended; ``columns`` in the order in which people read them."""

    columns: list[str]
    result: AccountProof | None
