"""Documents planned by two versions of the rules, one after the other, and what that comes to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.books import Invoice, Role, SalesOrder, TradeDocument
from inkwell_bridge.core.books import Payment as MoneyDocument
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.proof import coded_amounts
from inkwell_bridge.core.rehearsal.plan_changes import PlanChange, plan_changes
from inkwell_bridge.core.values import Exact, Text, Value

ZERO = Decimal(0)
MOST_TOTALS = 5_000
_CREDITS = {Role.CREDIT_NOTE, Role.REFUND_PAYMENT}


class TotalChange(Value):
    """What documents come to under one account, tax code or value of a dimension, before and after.

    Units: in ``currency``; of an account and a dimension net, of a tax code net and tax, of money what moved; credit
    notes and repayments count below zero. Documents that are held or left out come to nothing.
    """

    of: Text
    code: Text
    currency: Text
    before: Exact
    after: Exact
    tax_before: Exact = ZERO
    tax_after: Exact = ZERO

    @property
    def differs(self) -> bool:
        """Whether the change of rules moves anything here."""
        return (self.before, self.tax_before) != (self.after, self.tax_after)


class OutcomeCount(Value):
    """So many documents with one outcome before, and this one after."""

    before: Outcome
    after: Outcome
    count: int


class FindingCount(Value):
    """A finding that comes or goes with the change, on so many documents; ``text`` is that of the first."""

    id: Text
    level: Level
    came: int
    went: int
    text: Text


class Compared(NamedTuple):
    """What became of one document: its plans' outcomes, every value that is another, and ``why`` it is held, where it
    was not before."""

    before: Outcome
    after: Outcome
    changes: tuple[PlanChange, ...]
    why: str = ""

    @property
    def differs(self) -> bool:
        """Whether its plan is another."""
        return bool(self.changes)


class _Key(NamedTuple):
    of: str
    code: str
    currency: str


class Rehearsal:
    """Sums over documents that were planned twice. Memory grows with accounts and codes, never with the documents."""

    def __init__(self) -> None:
        self.documents = 0
        self.changed = 0
        self._outcomes: Counter[tuple[Outcome, Outcome]] = Counter()
        self._before: dict[_Key, tuple[Decimal, Decimal]] = {}
        self._after: dict[_Key, tuple[Decimal, Decimal]] = {}
        self._came: Counter[tuple[str, Level]] = Counter()
        self._went: Counter[tuple[str, Level]] = Counter()
        self._texts: dict[str, str] = {}

    def add(self, before: Plan, after: Plan | None = None) -> Compared:
        """Count one document; without ``after`` the change does not reach it, and its plan stays as it was."""
        self.documents += 1
        amounts = _carried(before)
        _sum(self._before, amounts)
        # What the change does not reach comes to the same on both sides.
        _sum(self._after, amounts if after is None else _carried(after))
        if after is None:
            self._outcomes[before.outcome, before.outcome] += 1
            return Compared(before.outcome, before.outcome, ())
        self._outcomes[before.outcome, after.outcome] += 1
        self._count_findings(before.findings, after.findings)
        changes = plan_changes(before, after)
        self.changed += bool(changes)
        return Compared(before.outcome, after.outcome, changes, _why(before, after))

    def _count_findings(self, before: tuple[Finding, ...], after: tuple[Finding, ...]) -> None:
        was, now = ({(one.id, one.level): one.text for one in found} for found in (before, after))
        for key in now.keys() - was.keys():
            self._came[key] += 1
            self._texts.setdefault(key[0], now[key])
        for key in was.keys() - now.keys():
            self._went[key] += 1
            self._texts.setdefault(key[0], was[key])

    @property
    def outcomes(self) -> tuple[OutcomeCount, ...]:
        """How many documents went from each outcome to each."""
        return tuple(
            OutcomeCount(before=before, after=after, count=count)
            for (before, after), count in sorted(self._outcomes.items())
        )

    @property
    def findings(self) -> tuple[FindingCount, ...]:
        """The findings that come and go, the most frequent first."""
        keys = self._came.keys() | self._went.keys()
        found = [
            FindingCount(
                id=name, level=level, came=self._came[name, level], went=self._went[name, level],
                text=self._texts[name],
            )
            for name, level in keys
        ]  # fmt: skip
        return tuple(sorted(found, key=lambda one: (-(one.came + one.went), one.id)))

    @property
    def totals(self) -> tuple[TotalChange, ...]:
        """Every account, code and value of a dimension, those that differ first."""
        nothing = (ZERO, ZERO)
        found = [
            TotalChange(
                **key._asdict(),
                before=self._before.get(key, nothing)[0], after=self._after.get(key, nothing)[0],
                tax_before=self._before.get(key, nothing)[1], tax_after=self._after.get(key, nothing)[1],
            )
            for key in {**self._before, **self._after}
        ]  # fmt: skip
        return tuple(sorted(found, key=lambda one: (one.of, not one.differs, one.code, one.currency)))


def _why(before: Plan, after: Plan) -> str:
    if after.outcome is Outcome.LEFT_OUT and before.outcome is not Outcome.LEFT_OUT:
        return f"Left out by {after.left_out_by}."
    if after.outcome is not Outcome.HOLD:
        return ""
    known = {one.id for one in before.findings if one.level is Level.ERROR}
    return next((one.text for one in after.findings if one.level is Level.ERROR and one.id not in known), "")


def _carried(plan: Plan) -> list[tuple[_Key, Decimal, Decimal]]:
    """What a plan comes to in the books; nothing where it is not carried."""
    return list(_amounts(plan)) if plan.outcome is Outcome.CARRY else []


def _sum(sums: dict[_Key, tuple[Decimal, Decimal]], amounts: list[tuple[_Key, Decimal, Decimal]]) -> None:
    for key, net, tax in amounts:
        if key in sums or len(sums) < MOST_TOTALS:
            was = sums.get(key, (ZERO, ZERO))
            sums[key] = (was[0] + net, was[1] + tax)


def _amounts(plan: Plan) -> Iterator[tuple[_Key, Decimal, Decimal]]:
    # Of a sales order and its invoice the invoice counts: the order takes nothing into the ledger.
    invoiced = any(isinstance(document, Invoice) for document in plan.documents)
    for document in plan.documents:
        if invoiced and isinstance(document, SalesOrder):
            continue
        sign = -1 if document.role in _CREDITS else 1
        currency = str(getattr(document, "currency", ""))
        of = "money account" if isinstance(document, MoneyDocument) else "account"
        for coding, (net, tax) in coded_amounts(document).items():
            yield _Key(of, coding.account, currency), sign * net, ZERO
            if coding.tax_code:
                yield _Key("tax code", coding.tax_code, currency), sign * net, sign * tax
        if isinstance(document, TradeDocument):
            for line in document.lines:
                for dimension in line.dimensions:
                    yield _Key(f"dimension {dimension.name}", dimension.value, currency), sign * line.net, ZERO
