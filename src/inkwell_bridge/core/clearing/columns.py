"""The columns of an account of money: what of its movements is charges, refunds, fees, payouts and so on.

A receipt or a refund is one movement. The journal of a payout takes charges and refunds off the clearing account in one
sum; where that sum went (fees, reserves, the bank) stands on its other lines, and these are what people ask for. So on
a clearing account a payout is shown by its other lines, each with the sign that it has for the account; on any other
account by its own.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import EntryKind, SourceKind
from inkwell_bridge.core.planner.payouts import COLLECTED, ENTRY_WORDS, FEE_TAX, FEES, OF_NO_ORDER, PAID_OUT
from inkwell_bridge.core.record import record


class Column(StrEnum):
    """What an amount on an account of money is, in the order in which people read it."""

    CHARGES = "charges"
    REFUNDS = "refunds"
    CHARGEBACKS = "chargebacks"
    CHARGEBACKS_REVERSED = "chargebacks reversed"
    FEES = "fees"
    FEE_TAX = "tax on fees"
    REFERRAL_FEES = "referral fees"
    FULFILMENT_FEES = "fulfilment fees"
    SUBSCRIPTIONS = "subscriptions"
    ADVERTISING = "advertising"
    SHIPPING_LABELS = "shipping labels"
    TAXES_KEPT = "taxes kept"
    CORRECTIONS = "corrections"
    CONVERSIONS = "conversions"
    RESERVES_KEPT = "reserves kept"
    RESERVES_RELEASED = "reserves released"
    OF_NO_ORDER = "of no known order"
    PAID_OUT = "paid out"
    ARRIVED = "arrived"
    OTHER = "other journals"


# The kinds of source whose documents are what buyers paid on invoices (service.carriage.kinds).
PAID_ON_INVOICES = frozenset({"request_payments", "bank_payments"})
# What stands on the clearing account itself in the journal of a payout.
CLEARED = (ENTRY_WORDS[EntryKind.CHARGE], ENTRY_WORDS[EntryKind.REFUND], ENTRY_WORDS[EntryKind.CARRIED_OVER])
# Told apart by words and not by accounts: two roles may share an account (fees and subscriptions), and the lines of an
# amended journal say the same as those that they correct.
_BY_WORDS = {
    FEES: Column.FEES,
    FEE_TAX: Column.FEE_TAX,
    OF_NO_ORDER: Column.OF_NO_ORDER,
    PAID_OUT: Column.PAID_OUT,
    COLLECTED: Column.PAID_OUT,
    ENTRY_WORDS[EntryKind.CHARGEBACK]: Column.CHARGEBACKS,
    ENTRY_WORDS[EntryKind.CHARGEBACK_REVERSED]: Column.CHARGEBACKS_REVERSED,
    ENTRY_WORDS[EntryKind.RESERVE_KEPT]: Column.RESERVES_KEPT,
    ENTRY_WORDS[EntryKind.RESERVE_RELEASED]: Column.RESERVES_RELEASED,
    ENTRY_WORDS[EntryKind.CONVERSION]: Column.CONVERSIONS,
    ENTRY_WORDS[EntryKind.TAX_WITHHELD]: Column.TAXES_KEPT,
    ENTRY_WORDS[EntryKind.CORRECTION]: Column.CORRECTIONS,
    ENTRY_WORDS[EntryKind.SUBSCRIPTION]: Column.SUBSCRIPTIONS,
    ENTRY_WORDS[EntryKind.ADVERTISING]: Column.ADVERTISING,
    ENTRY_WORDS[EntryKind.SHIPPING_LABEL]: Column.SHIPPING_LABELS,
    ENTRY_WORDS[EntryKind.REFERRAL_FEE]: Column.REFERRAL_FEES,
    ENTRY_WORDS[EntryKind.FULFILMENT_FEE]: Column.FULFILMENT_FEES,
}
# An entry of the provider's own ledger, before any journal tells of it.
BY_ENTRY = {
    EntryKind.CHARGE: Column.CHARGES,
    EntryKind.REFUND: Column.REFUNDS,
    **{kind: _BY_WORDS[said] for kind, said in ENTRY_WORDS.items() if said in _BY_WORDS},
}
_BY_ROLE = {Role.PAYMENT: Column.CHARGES, Role.CASH_SALE: Column.CHARGES, Role.REFUND_PAYMENT: Column.REFUNDS}


@record
class Part:
    """What documents of one role and kind put on the account, or on the other lines of their journals.

    Shape: ``kind`` is the source's, ``text`` what the lines say; ``own`` tells a line of the account itself, ``clears``
    a journal that has charges or refunds of a payout on it. Units: a debit is positive.
    """

    role: Role
    amount: Decimal
    kind: str = ""
    text: str = ""
    own: bool = True
    clears: bool = False


def in_columns(parts: Iterable[Part]) -> Iterator[tuple[Column, Decimal]]:
    """The movements of the account by column; together they are what the parts put on it."""
    for part in parts:
        if part.role is not Role.JOURNAL:
            yield _BY_ROLE.get(part.role, Column.OTHER), part.amount
        elif part.own is not part.clears:
            # A journal balances: what is on its other lines, with the sign turned, is what it put on this account.
            yield _of_journal(part), part.amount if part.own else -part.amount


def _of_journal(part: Part) -> Column:
    if part.kind in PAID_ON_INVOICES:
        # What came beyond an invoice is a journal, and a charge all the same.
        return Column.CHARGES
    if part.kind == SourceKind.ARRIVALS:
        return Column.ARRIVED
    if part.kind == SourceKind.PAYOUTS:
        return _BY_WORDS.get(part.text, Column.OTHER)
    return Column.OTHER
