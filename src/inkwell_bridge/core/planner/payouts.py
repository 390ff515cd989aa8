"""Planning a payout: one journal that takes from clearing what was paid out, and puts every deduction on its account.

A charge clears what its receipt debited; a refund, posted when it happened, is matched here and not posted again: both
stand on the clearing account, each with its own sign. Fees, tax on fees, chargebacks, reserves and whatever else the
provider keeps go each to their role, and what arrives is debited to the bank, or credited where the provider collects.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import Journal, JournalLine, MasterData, Role
from inkwell_bridge.core.commerce import EntryKind, Payout, PayoutEntry
from inkwell_bridge.core.findings import Cause, Finding, Level, source_error
from inkwell_bridge.core.planner.open_days import on_open_day
from inkwell_bridge.core.planner.plan import AllocatedAmount, Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import external_reference
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.payouts import PayoutRules
from inkwell_bridge.core.rulebook.periods import PeriodRules

ZERO = Decimal(0)
# Money of buyers: what has a place in the books already.
OF_ORDERS = (EntryKind.CHARGE, EntryKind.REFUND)
ROLES = {
    EntryKind.CHARGE: "clearing",
    EntryKind.REFUND: "clearing",
    EntryKind.CARRIED_OVER: "clearing",
    EntryKind.FEE: "fees",
    EntryKind.CHARGEBACK: "chargebacks",
    EntryKind.CHARGEBACK_REVERSED: "chargebacks",
    EntryKind.RESERVE_KEPT: "reserves",
    EntryKind.RESERVE_RELEASED: "reserves",
    EntryKind.CONVERSION: "conversions",
    EntryKind.TAX_WITHHELD: "taxes_kept",
    EntryKind.CORRECTION: "corrections",
    EntryKind.SUBSCRIPTION: "subscriptions",
    EntryKind.ADVERTISING: "advertising",
    EntryKind.SHIPPING_LABEL: "shipping_labels",
    EntryKind.REFERRAL_FEE: "referral_fees",
    EntryKind.FULFILMENT_FEE: "fulfilment_fees",
}
# What the line of a kind of entry says; a journal that is read back is told apart by it.
ENTRY_WORDS = {EntryKind.CHARGE: "Charges", EntryKind.REFUND: "Refunds", EntryKind.FEE: "Fees",
         EntryKind.CHARGEBACK: "Chargebacks", EntryKind.CHARGEBACK_REVERSED: "Chargebacks reversed",
         EntryKind.RESERVE_KEPT: "Reserves kept", EntryKind.RESERVE_RELEASED: "Reserves released",
         EntryKind.CONVERSION: "Conversions", EntryKind.TAX_WITHHELD: "Taxes kept by the provider",
         EntryKind.CORRECTION: "Corrections", EntryKind.SUBSCRIPTION: "Subscriptions",
         EntryKind.ADVERTISING: "Advertising", EntryKind.SHIPPING_LABEL: "Shipping labels",
         EntryKind.REFERRAL_FEE: "Referral fees", EntryKind.FULFILMENT_FEE: "Fulfilment fees",
         EntryKind.CARRIED_OVER: "Carried over"}  # fmt: skip
FEES, FEE_TAX, OF_NO_ORDER = "Fees", "Tax on fees", "Of no known order"
PAID_OUT, COLLECTED = "Paid out", "Collected"
# The finding of a payout some of whose money is of no known order.
IN_SUSPENSE = "PAYOUT-N001"
# So many entries are named in a finding; the list of them all is the payout itself.
_MOST_NAMED = 5


@record
class PayoutContext:
    """All that the plan of a payout depends on besides itself.

    Shape: ``source`` is the unchanging name of the provider's connection, ``time_zone`` (IANA) the company's;
    ``known`` are transactions that orders or refunds of this company told of, those of the payout among them.
    ``locked_until`` is the newest lock date of the books, where ``master_data`` is older.
    """

    source: str
    rules: PayoutRules
    periods: PeriodRules
    master_data: MasterData
    time_zone: str
    known: Collection[str] = ()
    locked_until: date | None = None


@dataclass(slots=True)
class _Posting:
    """What stands together on one line: amounts of the payout, each with its place."""

    role: str
    text: str
    parts: list[tuple[str, Decimal]] = field(default_factory=list)

    @property
    def base(self) -> Decimal:
        """Debited, or below zero credited: the provider's account seen from the other side."""
        return -sum((amount for _, amount in self.parts), ZERO)


def plan_payout(payout: Payout, context: PayoutContext) -> Plan:
    """The journal of a payout, or what stands in the way of it; one without any entry, or in a currency that the rules
    do not name, is left out."""
    if not payout.entries and not payout.total:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by="planner:payout-of-nothing")
    if context.rules.currencies and payout.currency not in context.rules.currencies:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by="/payouts/currencies")
    postings = list(_postings(payout, context))
    findings = (*_wrong(payout, context), *_roles_missing(postings, context))
    if findings:
        return Plan(outcome=Outcome.HOLD, findings=findings)
    lines: list[JournalLine] = []
    reasons: list[Reason] = []
    for posting in postings:
        account = context.rules.account(posting.role)
        assert account is not None
        reasons += _reasons(posting, account, len(lines))
        lines.append(_line(payout, account, posting.base, posting.text, f"{len(lines) + 1}"))
    if payout.total:
        arrives = _arrival(context)
        account = context.rules.account(arrives)
        assert account is not None
        reasons += _arrival_reasons(payout, arrives, account, len(lines))
        lines.append(_line(payout, account, payout.total, PAID_OUT if payout.total > 0 else COLLECTED, "total"))
    day, notes, moved = _day(payout, context)
    journal = Journal(
        external_reference=external_reference(context.source, payout.id, Role.JOURNAL),
        date=day,
        currency=payout.currency,
        text=f"Payout {payout.number}{f' of {payout.provider}' if payout.provider else ''}",
        lines=tuple(lines),
    )
    return Plan(
        outcome=Outcome.CARRY,
        documents=(journal,),
        reasons=(*reasons, *moved),
        findings=(*notes, *_in_suspense(payout, context)),
    )


def _postings(payout: Payout, context: PayoutContext) -> Iterator[_Posting]:
    """The lines of the journal but for the sum, in the order in which the payout first has them; each amount of each
    entry stands on exactly one."""
    found: dict[tuple[str, bool], _Posting] = {}
    for place, entry in enumerate(payout.entries):
        of_no_order = _is_of_no_order(entry, context)
        role = "suspense" if of_no_order else ROLES.get(entry.kind, "")
        text = OF_NO_ORDER if of_no_order else ENTRY_WORDS.get(entry.kind, entry.called)
        for name, amount, role_of, text_of in (("amount", entry.amount, role, text), ("fee", entry.fee, "fees", FEES),
                                               ("fee_tax", entry.fee_tax, "fee_tax", FEE_TAX)):  # fmt: skip
            if amount:
                # What goes up and what goes down stands apart: two that cancel would leave no line behind.
                posting = found.setdefault((text_of, amount > 0), _Posting(role=role_of, text=text_of))
                posting.parts.append((f"/entries/{place}/{name}", amount))
    yield from found.values()


def _is_of_no_order(entry: PayoutEntry, context: PayoutContext) -> bool:
    return entry.kind in OF_ORDERS and entry.transaction not in context.known


def _arrival(context: PayoutContext) -> str:
    return "on_its_way" if context.rules.on_its_way else "bank"


def _day(payout: Payout, context: PayoutContext) -> tuple[date, list[Finding], list[Reason]]:
    """The day of the journal: that of the payout where the money is on its way first, else that of its arrival; where
    the books have locked it and the rules say so, the first open day."""
    made = payout.paid_at.astimezone(ZoneInfo(context.time_zone)).date()
    day = made if context.rules.on_its_way or payout.arrives_on is None else payout.arrives_on
    periods = context if context.periods.locked == "first open day" else None
    return on_open_day(day, periods, place=0, source="/paid_at")


def _line(payout: Payout, account: str, base: Decimal, text: str, line_reference: str) -> JournalLine:
    return JournalLine(
        account=account, text=text, base=base, currency=payout.currency, amount=base, line_reference=line_reference
    )


def _reasons(posting: _Posting, account: str, number: int) -> Iterator[Reason]:
    sources = tuple(source for source, _ in posting.parts)
    entries = "1 entry" if len(sources) == 1 else f"{len(sources)} entries"
    side = "debited" if posting.base > 0 else "credited"
    yield Reason(
        target=f"/documents/0/lines/{number}/base", sources=sources, rule="planner:payout-entries",
        text=f"{posting.text}: {entries}, {abs(posting.base)} {side}.",
        allocated=tuple(AllocatedAmount(source=source, amount=amount) for source, amount in posting.parts),
    )  # fmt: skip
    yield Reason(target=f"/documents/0/lines/{number}/account", sources=sources, rule=f"/payouts/{posting.role}",
                 text=f"{posting.text} stand on {account}.")  # fmt: skip


def _arrival_reasons(payout: Payout, role: str, account: str, number: int) -> Iterator[Reason]:
    what = "is collected from the bank" if payout.total < 0 else "arrives at the bank"
    if role == "on_its_way":
        what = "is on its way to the bank" if payout.total > 0 else "is to be collected from the bank"
    yield Reason(target=f"/documents/0/lines/{number}/base", sources=("/total",), rule="planner:payout-total",
                 text=f"{abs(payout.total)} {payout.currency} {what}.",
                 allocated=(AllocatedAmount(source="/total", amount=payout.total),))  # fmt: skip
    yield Reason(target=f"/documents/0/lines/{number}/account", sources=("/total",), rule=f"/payouts/{role}",
                 text=f"The sum stands on {account}.")  # fmt: skip


def _wrong(payout: Payout, context: PayoutContext) -> Iterator[Finding]:
    if payout.currency != context.master_data.currency:
        yield source_error(
            "PAYOUT-E006", "/currency",
            f"Payout {payout.number} is in {payout.currency}, the books in {context.master_data.currency}.",
            "Enter its journal by hand in the books, then leave it out.", cause=Cause.CURRENCY_NOT_KEPT,
        )  # fmt: skip
    for place, entry in enumerate(payout.entries):
        come_to = entry.amount + entry.fee + entry.fee_tax
        if come_to != entry.net:
            yield source_error(
                "PAYOUT-E002", f"/entries/{place}/net",
                f"Entry {entry.id} of payout {payout.number} says {entry.net}, and its parts come to {come_to}.",
                "Compare it with the provider's own statement.",
            )  # fmt: skip
    come_to = sum((entry.net for entry in payout.entries), ZERO)
    if come_to != payout.total:
        yield source_error(
            "PAYOUT-E001", "/total",
            f"The entries of payout {payout.number} come to {come_to}, and {payout.total} {payout.currency} were paid.",
            "An entry is missing, or told twice; compare it with the provider's own statement.",
        )  # fmt: skip
    yield from _told_twice(payout)
    yield from _not_known(payout, context)


def _told_twice(payout: Payout) -> Iterator[Finding]:
    met: set[str] = set()
    for place, entry in enumerate(payout.entries):
        if entry.id in met:
            yield source_error(
                "PAYOUT-E007", f"/entries/{place}/id", f"Payout {payout.number} has entry {entry.id} twice.",
                "Compare it with the provider's own statement.",
            )  # fmt: skip
        met.add(entry.id)


def _not_known(payout: Payout, context: PayoutContext) -> Iterator[Finding]:
    """Kinds of entry that nobody here knows, by the provider's own names; and money of no order, without a place."""
    kinds = sorted({entry.called or "without a name" for entry in payout.entries if entry.kind is EntryKind.UNKNOWN})
    if kinds:
        yield source_error(
            "PAYOUT-E004", "/entries", f"Payout {payout.number} has entries of a kind that is not known: "
            f"{', '.join(kinds[:_MOST_NAMED])}.",
            "Enter its journal by hand in the books, then leave it out.", cause=Cause.RULE_MISSING,
        )  # fmt: skip
    strange = [entry for entry in payout.entries if _is_of_no_order(entry, context)]
    if strange and context.rules.suspense is None:
        yield source_error(
            "PAYOUT-E005", "/entries", f"{_named(strange)} of payout {payout.number} belong to no order or refund that "
            "crossed to these books.",
            "Carry the orders first, then let it go; or name an account for payouts: suspense.",
            cause=Cause.ORDER_FIRST,
        )  # fmt: skip


def _named(entries: Sequence[PayoutEntry]) -> str:
    names = [f"{one.kind} {one.transaction or one.id}{f' ({one.order_number})' if one.order_number else ''}"
             for one in entries[:_MOST_NAMED]]  # fmt: skip
    more = f" and {len(entries) - _MOST_NAMED} more" if len(entries) > _MOST_NAMED else ""
    return f"{', '.join(names)}{more}"


def _roles_missing(postings: Sequence[_Posting], context: PayoutContext) -> Iterator[Finding]:
    told: set[str] = set()
    for posting in postings:
        # What is of no known kind or order is told by itself.
        if posting.role in {"", "suspense"} or posting.role in told or context.rules.account(posting.role):
            continue
        told.add(posting.role)
        yield source_error(
            "PAYOUT-E003", posting.parts[0][0], f"{posting.text} have no account by the rules.",
            f"Add payouts: {posting.role} to the rulebook.", cause=Cause.RULE_MISSING,
        )  # fmt: skip


def _in_suspense(payout: Payout, context: PayoutContext) -> Iterator[Finding]:
    strange = [entry for entry in payout.entries if _is_of_no_order(entry, context)]
    if strange:
        yield Finding(
            id=IN_SUSPENSE, level=Level.WARNING, at="/entries",
            text=f"{_named(strange)} belong to no order or refund that crossed to these books: "
            f"{sum((one.amount for one in strange), ZERO)} {payout.currency} stand on {context.rules.suspense}.",
            hint="Find what they are of, and clear that account.",
        )  # fmt: skip
