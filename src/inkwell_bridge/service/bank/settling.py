"""What follows in the books once a line is matched, or a match is taken back.

A payout leaves where it stood (a journal); an order or a refund hears of its money, and is carried with it; an invoice
that somebody entered in the books gets a receipt. Each is known by the number of the match, so that a line which is
matched anew is other money than before.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, time
from decimal import Decimal

from django.utils import timezone

from inkwell_bridge.core.commerce import Arrival, ArrivedPayout, Payment, RequestPayment, Teller, Tender
from inkwell_bridge.core.money import exact
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.bank.awaited import ORDERS, PAYOUTS, REFUNDS
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineMatch
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.kinds.requests import BY_BANK
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.staging import keep_page
from inkwell_bridge.service.carriage.telling import PAGE, tell
from inkwell_bridge.service.carriage.told_payments import Told, taken_back

ARRIVALS = "arrivals"
METHOD = "Bank transfer"


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """So much of a line is that; ``on_account`` is where a payout stood until now."""

    match: LineMatch
    on_account: str


def settle(account: BankAccount, parts: Sequence[Part]) -> None:
    """Have what these lines are carried. Expects the account's lock."""
    of_line: dict[BankLine, list[Part]] = defaultdict(list)
    for one in parts:
        if one.match.crossing.kind == PAYOUTS:
            of_line[one.match.line].append(one)
    arrived: dict[Bridge, list[Fetched]] = defaultdict(list)
    for line, its in of_line.items():
        if any(one.on_account != account.ledger_account for one in its):
            arrived[its[0].match.crossing.bridge].append(_arrival(account, line, its))
    for bridge, arrivals in arrived.items():
        _carry(bridge, ARRIVALS, arrivals)
    _tell(account, [one.match for one in parts], stays=True)


def undo(account: BankAccount, line: BankLine, matches: Sequence[LineMatch]) -> None:
    """Have what these matches of a line were taken back. Expects the account's lock."""
    if any(one.crossing.kind == PAYOUTS for one in matches):
        arrival, bridge = _arrival(account, line, []), matches[0].crossing.bridge
        # Whatever went by it before goes on to say what the line is now: nothing.
        if Crossing.objects.filter(bridge=bridge, kind=ARRIVALS, source_id=arrival.id).exists():
            _carry(bridge, ARRIVALS, [arrival])
    _tell(account, matches, stays=False)


def _tell(account: BankAccount, matches: Iterable[LineMatch], *, stays: bool) -> None:
    """Tell orders and refunds of their money, and make the receipts of invoices; or that it was none of theirs."""
    told: list[Told] = []
    paid: dict[Bridge, list[LineMatch]] = defaultdict(list)
    for one in matches:
        if one.crossing.kind in (ORDERS, REFUNDS):
            payment = _payment(account, one)
            told.append(Told(crossing=one.crossing, payment=payment if stays else taken_back(payment)))
        elif one.crossing.kind != PAYOUTS:
            paid[one.crossing.bridge].append(one)
    if told:
        tell(told, "the bank has money of it" if stays else "a line of the bank is no money of it after all")
    for bridge, its in paid.items():
        _carry(bridge, BY_BANK, [_bank_payment(account, one, taken_back=not stays) for one in its])


def _carry(bridge: Bridge, kind: str, documents: Sequence[Fetched]) -> None:
    for start in range(0, len(documents), PAGE):
        keep_page(bridge, kind_named(kind), documents[start : start + PAGE])


def named(account: BankAccount, match: LineMatch) -> str:
    """What names the money of a match."""
    return f"{account.slug}-{match.pk}"


def _noon(line: BankLine) -> datetime:
    # At noon it is the same day on nearly all clocks.
    return datetime.combine(line.booked_on, time(12), UTC)


def _payment(account: BankAccount, match: LineMatch) -> Payment:
    amount = exact(abs(Decimal(match.amount)), account.currency)
    return Payment.read({
        "transaction": named(account, match), "method": " ".join(filter(None, (METHOD, match.line.reference))),
        "tender": Tender.BANK_TRANSFER, "amount": amount, "paid_at": _noon(match.line), "told_by": Teller.BANK,
        "arrived_on": account.ledger_account,
    })  # fmt: skip


def _bank_payment(account: BankAccount, match: LineMatch, *, taken_back: bool) -> Fetched:
    name, moment, invoice = named(account, match), _noon(match.line), match.crossing
    payment = RequestPayment.read({
        "id": name, "number": match.line.reference or name, "transaction": name, "invoice_id": invoice.source_id,
        "invoice_number": invoice.number, "method": METHOD, "tender": Tender.BANK_TRANSFER,
        "currency": account.currency, "amount": exact(Decimal(match.amount), account.currency), "paid_at": moment,
        "recorded_at": moment, "changed_at": timezone.now(), "arrived_on": account.ledger_account,
        "taken_back": taken_back,
    })  # fmt: skip
    return Fetched(id=name, number=payment.number, document=payment, changed_at=payment.changed_at)


def _arrival(account: BankAccount, line: BankLine, parts: Sequence[Part]) -> Fetched:
    source_id, now = f"{account.slug}-{line.pk}", timezone.now()
    arrived = [
        ArrivedPayout.read({
            "payout": one.match.crossing.source_id, "number": one.match.crossing.number, "account": one.on_account,
            "amount": exact(Decimal(one.match.amount), account.currency),
        })
        for one in parts
    ]  # fmt: skip
    arrival = Arrival.read({
        "id": source_id, "number": line.reference or source_id, "account": account.ledger_account,
        "booked_on": line.booked_on, "changed_at": now, "currency": account.currency, "text": line.text,
        "amount": exact(line.amount, account.currency), "parts": [one.as_json() for one in arrived],
    })  # fmt: skip
    return Fetched(id=source_id, number=arrival.number, document=arrival, changed_at=now)
