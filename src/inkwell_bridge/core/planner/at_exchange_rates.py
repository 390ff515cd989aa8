"""The rates of a plan's documents, and what its money gained or lost between them.

All documents of one order go by one rate, that of the first: what comes off again comes off as it went on. Its money
goes by the rate of its own day, and the difference is realised on an account of its own.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, ExchangeDifference, LedgerDocument, Payment, RefundPayment
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.commerce import Payment as Money
from inkwell_bridge.core.exchange_rates import ExchangeRate, fitted, rate_of_money, rate_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.planner.moments import day_of
from inkwell_bridge.core.planner.plan import Converted, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.exchange_rates import ExchangeRateRules
from inkwell_bridge.core.rulebook.levels import facts_of_order

ZERO = Decimal(0)
TAKEN_FROM = "/exchange_rates/taken_from"
_ASKED = {"order": "the order", "payment": "its payments", "table": "the table of daily rates"}


def exchange_rate_of(order: Order, context: PlanningContext) -> ExchangeRate | None:
    """The rate that an order's documents go by: the one that it was posted at, or else the one that the rules find.

    None for one in the company's own currency, and where the books are to take a rate of theirs.
    """
    own, rules = context.master_data.currency, context.rulebook.exchange_rates
    if order.currency == own or rules is None or context.rulebook.orders.currencies == "own":
        return None
    if context.exchange_rate is not None:
        return context.exchange_rate
    day = day_of(order, context.rulebook.orders.dated, context)
    return rate_of_order(order, day, own, rules, context.daily_rates)


def rate_missing(order: Order, context: PlanningContext, rate: ExchangeRate | None) -> Iterator[Finding]:
    """An error where an order needs a ``rate`` and none was found."""
    own, rules = context.master_data.currency, context.rulebook.exchange_rates
    if order.currency == own or rules is None or rate is not None:
        return
    day = day_of(order, context.rulebook.orders.dated, context)
    asked = ", ".join(_ASKED[source] for source in rules.taken_from)
    yield Finding(
        id="RATE-E001", level=Level.ERROR, at="/currency", cause=Cause.RATE_MISSING,
        text=f"Order {order.number} is in {order.currency}, and no rate to {own} is known on {day}. Asked: {asked}.",
        hint=f"Enter or load the rate of {order.currency} for that day, or let the rules take it from somewhere else.",
    )  # fmt: skip


def is_converted(order: Order, context: PlanningContext) -> bool:
    """Whether an order's documents are in the company's own currency, though it is in another."""
    return context.rulebook.orders.currencies == "converted" and order.currency != context.master_data.currency


@dataclass(frozen=True, slots=True, kw_only=True)
class InCurrencies:
    """A source document as the sales side has it, and the same in the currency of its documents."""

    here: Order | Refund
    there: Order | Refund


def at_exchange_rates(
    plan: Plan, order: Order, said: InCurrencies, rate: ExchangeRate | None, context: PlanningContext, *,
    keep: Collection[str] = (),
) -> Plan:  # fmt: skip
    """The plan with the rates of its documents, and the exchange differences of its money.

    ``order`` is as the sales side has it, ``said`` the order itself or a refund of it; documents to ``keep`` stand in
    the books already, and come before the others.
    """
    rules = context.rulebook.exchange_rates
    if rate is None or rules is None:
        return plan
    made = _Rated(order, said, rate, rules, context)
    documents = [
        made.kept(one) if one.external_reference in keep else made.document(one, place)
        for place, one in enumerate(plan.documents)
    ]
    return plan.model_copy(
        update={
            "documents": tuple(documents),
            "exchange_rate": rate,
            "converted": _converted(said.there) if is_converted(order, context) else None,
            "reasons": (*plan.reasons, *made.reasons),
        }
    )


def _converted(there: Order | Refund) -> Converted:
    sign = -1 if isinstance(there, Refund) else 1
    return Converted(net=sign * (there.total - there.tax_total), tax=sign * there.tax_total)


class _Rated:
    """The documents of one plan, one after the other."""

    def __init__(
        self, order: Order, said: InCurrencies, rate: ExchangeRate, rules: ExchangeRateRules, context: PlanningContext
    ) -> None:
        self._order, self._rate, self._rules, self._context = order, rate, rules, context
        pairs = zip(said.here.payments, said.there.payments, strict=True)
        self._money = {here.transaction: (here, there) for here, there in reversed(list(pairs))}
        self._is_converted = is_converted(order, context)
        # What was settled of each document so far, and the receipts, which may be taken back.
        self._settled: dict[str, Decimal] = {}
        self._receipts: dict[str, Payment] = {}
        self.reasons: list[Reason] = []

    def kept(self, document: BooksDocument) -> BooksDocument:
        """One that stands in the books: what it settled is counted, and it stays as it is."""
        if isinstance(document, Payment):
            self._count(document)
        return document

    def document(self, document: BooksDocument, place: int) -> BooksDocument:
        """One document at its rate."""
        if isinstance(document, LedgerDocument):
            if self._is_converted:
                text = f"In {self._rate.own} by rule: {self._rate.said}."
                self._say(place, "/currency", text, "/orders/currencies")
                return document
            self._say(place, "/rate", f"{self._rate.said}.", TAKEN_FROM)
            return document.model_copy(update={"rate": self._rate.rate, "rate_from": self._rate.source,
                                               "base_currency": self._rate.own})  # fmt: skip
        if isinstance(document, Payment):
            receipt = self._receipts.get(document.transaction) if isinstance(document, RefundPayment) else None
            if receipt is not None:
                made = self._taken_back(document, receipt)
            elif self._is_converted:
                made = self._in_own(document, place)
            else:
                made = self._in_its_own(document, place)
            self._count(made)
            return made
        return document

    def _count(self, payment: Payment) -> None:
        if not isinstance(payment, RefundPayment):
            self._receipts[payment.transaction] = payment
        elif payment.transaction in self._receipts:
            # The receipt is undone: what it had settled is open again.
            for part in self._receipts[payment.transaction].applied:
                self._settle(part.external_reference, -part.amount)
            return
        for part in payment.applied:
            self._settle(part.external_reference, part.amount)

    def _settle(self, reference: str, amount: Decimal) -> None:
        self._settled[reference] = self._settled.get(reference, ZERO) + amount

    def _base_of(self, reference: str, amount: Decimal) -> Decimal:
        """The base of so much more of a document.

        It is what the whole comes to with it, less what that came to before: parts that are rounded one by one would
        leave a penny when all is paid.
        """
        before = self._settled.get(reference, ZERO)
        return self._rounded(before + amount, self._rate) - self._rounded(before, self._rate)

    def _rounded(self, amount: Decimal, rate: ExchangeRate) -> Decimal:
        return rounded(amount * rate.rate, rate.own)

    def _in_its_own(self, payment: Payment, place: int) -> Payment:
        """Money in the currency of its order: at the rate of its own day, the difference to its documents realised."""
        here, _ = self._money.get(payment.transaction, (None, None))
        rate = rate_of_money(here, payment.date, self._rate, self._rules, self._context.daily_rates)
        base = self._rounded(payment.amount, rate)
        if here is not None and here.amount == payment.amount:
            base = self._moved(here, rate)
        applied = sum((part.amount for part in payment.applied), ZERO)
        # What is set against nothing stands open at its own rate: there is no difference yet.
        stays = self._rounded(payment.amount - applied, rate)
        settled = sum((self._base_of(part.external_reference, part.amount) for part in payment.applied), ZERO)
        self._say(place, "/rate", f"{rate.said}.", TAKEN_FROM)
        made = payment.model_copy(update={"rate": rate.rate, "rate_from": rate.source, "base": base})
        return self._realised(made, base - stays - settled if applied else ZERO, place)

    def _in_own(self, payment: Payment, place: int) -> Payment:
        """Money in the company's own currency: what really moved, where anybody told; it settles what it did."""
        here, there = self._money.get(payment.transaction, (None, None))
        if here is None or there is None or not there.amount:
            return payment
        rate = rate_of_money(here, payment.date, self._rate, self._rules, self._context.daily_rates)
        # At one rate there is no difference, unless its provider told another amount: what it is off is rounding.
        if rate.rate == self._rate.rate and here.settled is None:
            return payment
        moved = self._moved(here, rate)
        # Of what a marketplace kept a part of, the rest moved at the same rate.
        if payment.amount != there.amount:
            moved = rounded(moved * payment.amount / there.amount, rate.own)
        self._say(place, "/amount", f"{moved} {rate.own} moved: {rate.said}.", TAKEN_FROM)
        made = payment.model_copy(update={"amount": moved})
        return self._realised(made, moved - payment.amount, place)

    def _moved(self, money: Money, rate: ExchangeRate) -> Decimal:
        """What money came to in the company's own currency."""
        told = money.settled
        # What a provider paid out is a fact; its rate is often printed with fewer digits than it was worked out with.
        if told is not None and (told.currency, fitted(told.rate)) == (rate.own, rate.rate):
            return told.amount
        return self._rounded(money.amount, rate)

    def _taken_back(self, payment: Payment, receipt: Payment) -> Payment:
        """What a receipt gained or lost goes with it: the money never stayed."""
        update: dict[str, object] = {"rate": receipt.rate, "rate_from": receipt.rate_from, "base": receipt.base}
        if receipt.exchange_difference is not None:
            undone = receipt.exchange_difference.model_copy(update={"amount": -receipt.exchange_difference.amount})
            update["exchange_difference"] = undone
        return payment.model_copy(update=update)

    def _realised(self, payment: Payment, more: Decimal, place: int) -> Payment:
        """The payment with its exchange difference, where so much ``more`` (or less) moved than it settles."""
        if not more:
            return payment
        rule = self._context.rulebook.accounts.exchange_differences
        assert rule is not None, "rules that take rates for money name an account for its differences"
        chosen = rule.chosen("exchange_differences", facts_of_order(self._order))
        # Of money that goes back, more is a loss.
        amount = -more if isinstance(payment, RefundPayment) else more
        said = f"{abs(amount)} {self._rate.own} were {'gained' if amount > 0 else 'lost'} between document and money."
        self._say(place, "/exchange_difference", said, chosen.rule)
        difference = ExchangeDifference(account=chosen.code, amount=amount)
        return payment.model_copy(update={"exchange_difference": difference})

    def _say(self, place: int, what: str, text: str, rule: str) -> None:
        self.reasons.append(Reason(target=f"/documents/{place}{what}", sources=("/currency",), rule=rule, text=text))
