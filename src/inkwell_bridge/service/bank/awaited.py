"""What should arrive on a bank account, or go out from it: payouts, and money that pays invoices and credit notes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import DecimalField, Exists, F, OuterRef, Q, QuerySet, Sum, Value
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast, Coalesce

from inkwell_bridge.core.bank import Awaited as CoreAwaited
from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import MoneyState, PostedInvoice, Teller
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.planner import is_ours
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.core.rulebook.bank import BankRules
from inkwell_bridge.service import clock
from inkwell_bridge.service.bank.models import BankAccount
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import all_in_force, parsed
from inkwell_bridge.service.carriage.kinds.requests import BY_BANK, receipts_for, still_open
from inkwell_bridge.service.carriage.kinds.requests import PAYMENTS as REQUEST_PAYMENTS
from inkwell_bridge.service.carriage.models import (
    COUNTED_DOCUMENT,
    Crossing,
    DocumentSource,
    MoneyMovement,
    OpenBalance,
    ToldPayment,
)
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, Trial

PAYOUTS, ORDERS, REFUNDS, REQUESTS = "payouts", "orders", "refunds", "requests"
ZERO = Decimal(0)
# So many of the oldest of each kind are looked at; who has more of them waiting has another question to answer first.
MOST = 2_000
_AMOUNT: DecimalField[Decimal, Decimal] = DecimalField(max_digits=20, decimal_places=4)
_NOTHING = Value(ZERO, output_field=_AMOUNT)


@dataclass(frozen=True, slots=True, kw_only=True)
class Awaited:
    """Something that the bank should have, or what is still to come of it.

    Shape: ``of`` is the payout, the order or the refund, or the invoice that the books told of; ``number`` is what
    people call it, and ``names`` what a line may. ``on_account`` is the account of the books that a payout stands on
    until then. The others see ``core.bank.Awaited``. Units: ``amount`` in the account's currency, below zero where it
    goes out.
    """

    of: Crossing
    amount: Decimal
    due_on: date
    rules: BankRules
    number: str
    names: tuple[str, ...]
    on_account: str
    party: str = ""

    @property
    def is_payout(self) -> bool:
        """Whether it is a payout: one is what it is, where money of buyers may come in parts."""
        return self.of.kind == PAYOUTS

    @property
    def days_late(self) -> int:
        """Since when it should have been there."""
        return (clock.now().date() - self.due_on).days

    def asked(self) -> CoreAwaited:
        """As the core looks for it. A buyer pays some day, a provider on its own."""
        near = timedelta(days=self.rules.within_days)
        return CoreAwaited(
            id=self.of.pk, amount=self.amount, due_on=self.due_on, names=self.names, party=self.party,
            group=f"{self.of.kind} {self.of.bridge_id}", earliest=self.due_on - near,
            latest=self.due_on + near if self.is_payout else None, in_part=not self.is_payout,
            alone=self.rules.unnamed == "take the only one",
        )  # fmt: skip


def awaited(account: BankAccount, only: Collection[int] | None = None) -> list[Awaited]:
    """What is awaited on this account, the oldest of each kind first; or ``only`` those with these keys, with orders
    and invoices that are paid already among them: more may come in for those. A dozen statements, however much there
    is, and two for each bridge that reads invoices of these books."""
    bridges = Bridge.objects.filter(
        workspace=account.workspace_id, books=account.books_id, removed_at__isnull=True
    ).select_related("source", "books", "company")
    rules = dict(all_in_force(bridges))
    told_by_bank = [bridge for bridge, book in rules.items() if _is_told_by_bank(book)]
    asking = [bridge for bridge, book in rules.items() if book.requests is not None]
    return [
        *_payouts(account, only),
        *_open_orders(account, told_by_bank, rules, only),
        *_unpaid_refunds(account, told_by_bank, rules, only),
        *_open_invoices(account, asking, rules, only),
    ]


def _is_told_by_bank(book: Rulebook) -> bool:
    return book.payments is not None and Teller.BANK in book.payments.tellers.every


def _payouts(account: BankAccount, only: Collection[int] | None) -> Iterator[Awaited]:
    rows = Crossing.objects.filter(
        workspace=account.workspace_id, bridge__books=account.books_id, kind=PAYOUTS, state=CrossingState.CARRIED,
        currency=account.currency,
    )  # fmt: skip
    if only is not None:
        rows = rows.filter(pk__in=only)
    rows = (
        rows.select_related("bridge__source", "bridge__company", "rulebook")
        .defer("planned")
        .annotate(
            arrived=Coalesce(Sum("bank_matches__amount"), _NOTHING),
            arrives_on=KeyTextTransform("arrives_on", "snapshot__content"),
            named=KeyTextTransform("bank_reference", "snapshot__content"),
        )
        .exclude(gross=F("arrived"))
        .order_by("business_date", "pk")
    )
    for row in rows[:MOST]:
        book = parsed(row.rulebook) if row.rulebook is not None else None
        if book is None or book.payouts is None or book.payouts.bank != account.ledger_account:
            continue
        amount = (row.gross or ZERO) - row.arrived
        made = row.business_date or date.min
        yield Awaited(
            of=row,
            amount=exact(amount, account.currency),
            due_on=date.fromisoformat(row.arrives_on) if row.arrives_on else made,
            rules=book.bank,
            number=row.number,
            names=tuple(filter(None, (row.number, row.named))),
            on_account=book.payouts.on_its_way or account.ledger_account,
        )


def _open_orders(
    account: BankAccount, bridges: Sequence[Bridge], rules: Mapping[Bridge, Rulebook], only: Collection[int] | None
) -> Iterator[Awaited]:
    """Orders of which something is open in the books, where the bank tells of money."""
    rows = _balances(account, bridges).order_by("since", "pk")
    rows = rows.filter(amount__gt=0) if only is None else rows.filter(crossing__in=only)
    open_there = {row.crossing: row for row in rows[:MOST]}
    orders = [*open_there, *_settled_orders(account, bridges, only, open_there)]
    if not orders:
        return
    keys = [one.pk for one in orders]
    pending, sales = _pending(keys), _in_books(keys, Role.INVOICE)
    for one in orders:
        sale, balance = sales[one.pk], open_there.get(one)
        amount = max((balance.amount if balance else ZERO) - pending[one.pk], ZERO)
        since = balance.since if balance else one.business_date or date.min
        if amount or only is not None:
            yield Awaited(
                of=one, amount=exact(amount, account.currency), due_on=sale.due_on or since,
                rules=rules[one.bridge].bank, number=one.number, names=(one.number, *sale.numbers),
                on_account=account.ledger_account, party=sale.contact,
            )  # fmt: skip


def _settled_orders(
    account: BankAccount, bridges: Sequence[Bridge], only: Collection[int] | None, others: Collection[Crossing]
) -> Sequence[Crossing]:
    """Of the orders that somebody asks for those that are paid."""
    if only is None:
        return ()
    rows = Crossing.objects.filter(
        workspace=account.workspace_id, bridge__in=bridges, kind=ORDERS, state=CrossingState.CARRIED,
        trial=Trial.NONE, currency=account.currency, pk__in=only,
    )  # fmt: skip
    return list(rows.exclude(pk__in=[one.pk for one in others]).select_related("bridge").defer("planned"))


def _unpaid_refunds(
    account: BankAccount, bridges: Sequence[Bridge], rules: Mapping[Bridge, Rulebook], only: Collection[int] | None
) -> Iterator[Awaited]:
    """Refunds that were credited and not paid back yet, of orders that owe their buyers something."""
    owing = list(_balances(account, bridges).filter(amount__lt=0).order_by("since", "pk")[:MOST])
    if not owing:
        return
    orders = {(row.bridge_id, row.crossing.source_id): row for row in owing}
    refunds = Crossing.objects.filter(
        workspace=account.workspace_id, bridge__in=bridges, kind=REFUNDS, state=CrossingState.CARRIED,
        parent_source_id__in=[source_id for _, source_id in orders],
    ).select_related("bridge").defer("planned")  # fmt: skip
    if only is not None:
        refunds = refunds.filter(pk__in=only)
    found = [row for row in refunds.order_by("business_date", "pk") if (row.bridge_id, row.parent_source_id) in orders]
    keys = [row.pk for row in found]
    pending, paid, notes = _pending(keys), _paid_back(keys), _in_books(keys, Role.CREDIT_NOTE)
    for row in found:
        order = orders[row.bridge_id, row.parent_source_id]
        amount = min((row.gross or ZERO) - paid[row.pk], -order.amount) - pending[row.pk]
        if amount > 0:
            yield Awaited(
                of=row, amount=exact(-amount, account.currency), due_on=row.business_date or order.since,
                rules=rules[row.bridge].bank, number=row.number, on_account=account.ledger_account,
                names=(row.number, order.crossing.number, *notes[row.pk].numbers), party=notes[row.pk].contact,
            )  # fmt: skip


def _balances(account: BankAccount, bridges: Sequence[Bridge]) -> QuerySet[OpenBalance]:
    # Of an order that was converted, the account's currency is the books' alone: its money counts in its own.
    return (
        OpenBalance.objects.filter(
            bridge__in=bridges, currency=account.currency, crossing__currency=account.currency,
            crossing__state=CrossingState.CARRIED, crossing__trial=Trial.NONE,
        )
        .select_related("crossing__bridge")
        .defer("crossing__planned")
    )  # fmt: skip


@dataclass(slots=True, kw_only=True)
class _Sale:
    """What documents of the books say of what they stand for: their numbers, when it is due, and whose it is."""

    numbers: list[str] = field(default_factory=list)
    contact: str = ""
    due_on: date | None = None


def _in_books(crossings: Sequence[int], role: Role) -> Mapping[int, _Sale]:
    """What stands in the books of each of these; one statement."""
    rows = DocumentSource.objects.filter(
        ~Q(document__state=DocumentState.CANCELLED), crossing__in=crossings, document__role=role
    ).order_by("crossing", "part")
    told = rows.values_list(
        "crossing", "document__books_number", "document__contact_id", KeyTextTransform("due_on", "document__planned")
    )
    found: dict[int, _Sale] = defaultdict(_Sale)
    for crossing, number, contact, due_on in told:
        sale = found[crossing]
        sale.numbers += [number] if number else []
        sale.contact = sale.contact or contact
        sale.due_on = sale.due_on or (date.fromisoformat(due_on) if due_on else None)
    return found


def _pending(crossings: Sequence[int]) -> Mapping[int, Decimal]:
    """What was told of each of these orders or refunds and is on its way into the books; one statement."""
    posted = MoneyMovement.objects.filter(
        crossing=OuterRef("crossing"), transaction=OuterRef("transaction"), document__isnull=False
    )
    rows = ToldPayment.objects.filter(crossing__in=crossings, payment__state=MoneyState.RECEIVED.value)
    amount = Cast(KeyTextTransform("amount", "payment"), output_field=_AMOUNT)
    sums = rows.filter(~Exists(posted)).order_by().values_list("crossing").annotate(amount=Sum(amount))
    return defaultdict(Decimal, sums)


def _paid_back(refunds: Sequence[int]) -> Mapping[int, Decimal]:
    """What of these refunds was paid back in the books; one statement."""
    rows = DocumentSource.objects.filter(
        COUNTED_DOCUMENT, crossing__in=refunds, document__role__in=(Role.REFUND_PAYMENT, Role.PAYMENT)
    )
    amount = Cast(KeyTextTransform("amount", "document__planned"), output_field=_AMOUNT)
    back: dict[int, Decimal] = defaultdict(Decimal)
    for crossing, role, moved in rows.values_list("crossing", "document__role", amount):
        # What took a repayment back is a receipt.
        back[crossing] += moved if role == Role.REFUND_PAYMENT else -moved
    return back


def _open_invoices(
    account: BankAccount, bridges: Sequence[Bridge], rules: Mapping[Bridge, Rulebook], only: Collection[int] | None
) -> Iterator[Awaited]:
    """Invoices that somebody entered in the books, as far as a lane of requests has read them, whether they are asked
    for there or not. Those that were posted from here are orders."""
    rows = Crossing.objects.filter(
        workspace=account.workspace_id, bridge__in=bridges, kind=REQUESTS, currency=account.currency,
        snapshot__content__state="posted",
    )  # fmt: skip
    if only is not None:
        rows = rows.filter(pk__in=only)
    else:
        open_amount = Cast(KeyTextTransform("open", "snapshot__content"), output_field=_AMOUNT)
        rows = rows.annotate(open=open_amount).filter(Q(open__gt=0) | Exists(_taken_back()))
    rows = rows.select_related("bridge", "snapshot").defer("planned").order_by("business_date", "pk")
    by_bridge: dict[int, list[Crossing]] = defaultdict(list)
    for row in rows[:MOST]:
        by_bridge[row.bridge_id].append(row)
    for of_bridge in by_bridge.values():
        bridge, ids = of_bridge[0].bridge, [row.source_id for row in of_bridge]
        receipts, matched = receipts_for(bridge, ids, (REQUEST_PAYMENTS, BY_BANK)), _matched(bridge, ids)
        for row in of_bridge:
            invoice = PostedInvoice.read(row.snapshot.content)
            amount = max(still_open(invoice, receipts[row.source_id]).amount - matched[row.source_id], ZERO)
            if (amount or only is not None) and not is_ours(invoice.external_reference):
                yield Awaited(
                    of=row, amount=exact(amount, account.currency), due_on=invoice.due_on or invoice.issued_on,
                    rules=rules[bridge].bank, number=invoice.number, on_account=account.ledger_account,
                    names=tuple(filter(None, (invoice.number, invoice.order_number))), party=invoice.contact_id,
                )  # fmt: skip


def _taken_back() -> QuerySet[Crossing]:
    """Bank payments of an invoice that were none: the books have them set against it still."""
    return Crossing.objects.filter(
        workspace=OuterRef("workspace"), bridge=OuterRef("bridge"), kind=BY_BANK,
        parent_source_id=OuterRef("source_id"), snapshot__content__taken_back=True,
    )  # fmt: skip


def _matched(bridge: Bridge, invoices: Sequence[str]) -> Mapping[str, Decimal]:
    """What lines were matched to each of these invoices whose receipt is not on its way yet; one statement."""
    begun = DocumentSource.objects.filter(crossing=OuterRef("pk")).exclude(
        document__posting_at=None, document__intended_at=None, document__books_id=""
    )
    rows = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=BY_BANK, parent_source_id__in=invoices
    ).exclude(state=CrossingState.LEFT_OUT).filter(~Exists(begun))  # fmt: skip
    return defaultdict(Decimal, rows.order_by().values_list("parent_source_id").annotate(amount=Sum("gross")))
