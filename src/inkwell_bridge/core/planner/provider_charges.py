"""Planning what a provider tells of a charge: no document of its own, but money of an order or a refund."""

from __future__ import annotations

from inkwell_bridge.core.commerce import MoneyState, Payment, ProviderCharge, Teller
from inkwell_bridge.core.findings import Cause, source_error
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.money import PaymentRules

# In place of the rule that leaves one out.
NOT_TAKEN, NOT_BELIEVED = "planner:charge-not-taken", "/payments/told_by"
_TAKEN = (MoneyState.RECEIVED, MoneyState.AUTHORISED)


@record
class ChargedDocument:
    """The order, or the refund, that a charge is money of.

    Shape: ``rules`` are those for payments that it stands under, absent where payments are left for later; ``payment``
    is what its sales side says of the same money, and ``told`` whether the provider told of it before.
    """

    number: str
    currency: str
    rules: PaymentRules | None
    payment: Payment | None = None
    told: bool = False


@record
class ChargeContext:
    """All that the plan of a charge depends on besides itself.

    Shape: ``account`` is the account of the books that charges stand on until they are paid out; ``found`` are the
    documents that it may be money of.
    """

    account: str
    found: tuple[ChargedDocument, ...] = ()


def plan_provider_charge(charge: ProviderCharge, context: ChargeContext) -> Plan:
    """Whether an order or a refund hears of the charge: where its rules believe the provider of such money."""
    what = f"{'Refund' if charge.gives_back else 'Charge'} {charge.number}"
    if len(context.found) != 1:
        if charge.state not in _TAKEN:
            return Plan(outcome=Outcome.LEFT_OUT, left_out_by=NOT_TAKEN)
        many = ", ".join(one.number for one in context.found)
        wrong = source_error(
            "CHARGE-E001", "/transaction",
            f"{what} may be of {many}: more than one has it." if many
            else f"{what} is of {'a refund' if charge.gives_back else 'an order'} that no run has read"
            f"{f' ({charge.order_number})' if charge.order_number else ''}.",
            "It goes by itself once that is read. Where it never will be, enter the money by hand and leave this out.",
            cause=Cause.ORDER_FIRST,
        )  # fmt: skip
        return Plan(outcome=Outcome.HOLD, findings=(wrong,))
    (found,) = context.found
    if not is_believed(charge, found):
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=NOT_BELIEVED)
    if charge.state not in _TAKEN and not found.told:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=NOT_TAKEN)
    if charge.currency != found.currency:
        wrong = source_error(
            "CHARGE-E002", "/currency",
            f"{what} is in {charge.currency}, {found.number} in {found.currency}.",
            "Enter the money by hand in the books, then leave this out.", cause=Cause.CURRENCY_NOT_KEPT,
        )  # fmt: skip
        return Plan(outcome=Outcome.HOLD, findings=(wrong,))
    reason = Reason(target="", sources=("/amount",), rule=NOT_BELIEVED,
                    text=f"{found.number} is carried with {charge.amount} {charge.currency}.")  # fmt: skip
    return Plan(outcome=Outcome.CARRY, reasons=(reason,))


def is_believed(charge: ProviderCharge, of: ChargedDocument) -> bool:
    """Whether the rules of its order believe the provider of such money."""
    if of.rules is None:
        return False
    teller, _ = of.rules.tellers.of(of.payment or as_payment(charge, of, ""))
    return teller is Teller.PROVIDER


def as_payment(charge: ProviderCharge, of: ChargedDocument, account: str) -> Payment:
    """The charge as money of its order: called what the sales side calls it, and as much as the provider says."""
    said = of.payment
    return Payment(
        transaction=charge.transaction,
        method=said.method if said else charge.method,
        tender=said.tender if said else charge.tender,
        brand=said.brand if said else charge.brand,
        gateway=said.gateway if said else "",
        amount=charge.amount,
        state=charge.state,
        paid_at=charge.occurred_at,
        settled=said.settled if said else None,
        told_by=Teller.PROVIDER,
        arrived_on=account,
    )
