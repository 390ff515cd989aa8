"""Matching lines to payouts: by itself where it is sure, by hand, and taken back."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import DecimalField, F, Sum, Value
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Coalesce
from django.utils import timezone

from inkwell_bridge.core.bank import AwaitedPayout, Fit, OpenLine, fits
from inkwell_bridge.core.commerce import Arrival, ArrivedPayout
from inkwell_bridge.core.money import exact
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service import clock
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineMatch, LineState, MatchedBy
from inkwell_bridge.service.bank.reading import lock_of
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.staging import keep_page
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

PAYOUTS, ARRIVALS = "payouts", "arrivals"
ZERO = Decimal(0)
# So many of the oldest are looked at; who has more of either waiting has another question to answer first.
MOST_PAYOUTS, MOST_LINES = 2_000, 50_000
# A bank may be early by a few days, and a provider may have told a day that it did not keep.
_EARLY = timedelta(days=60)


class CannotMatch(Refusal):
    """Lines and payouts that do not belong together."""

    code = "cannot-match"
    hint = "One line may be several payouts, or several lines one payout; both sides come to the same sum."


@dataclass(frozen=True, slots=True, kw_only=True)
class Awaited:
    """A payout that has not arrived, or not all of it.

    Shape: ``on_account`` is the account of the books that it stands on until then; ``within_days`` and ``alone`` see
    ``core.bank.AwaitedPayout``. Units: ``amount`` is what is still to come, in the account's currency.
    """

    payout: Crossing
    amount: Decimal
    due_on: date
    on_account: str
    bank_reference: str
    within_days: int
    alone: bool

    @property
    def days_late(self) -> int:
        """Since when it should have been there."""
        return (clock.now().date() - self.due_on).days


def look_for(books: Connection) -> None:
    """Match what is sure on every bank account of these books."""
    for account in BankAccount.objects.select_related("books", "workspace").filter(books=books):
        match_sure(account)


def match_sure(account: BankAccount) -> int:
    """Match what is sure; answers how many lines. Expects no transaction, or the one that brought what is new."""
    with transaction_under(lock_of(account)):
        payouts = awaited(account)
        found = [one for one in _fits(account, payouts) if one.is_sure]
        by_key = {one.payout.pk: one for one in payouts}
        lines = BankLine.objects.in_bulk([line for fit in found for line in fit.lines])
        for fit in found:
            chosen = [by_key[key] for key in fit.payouts]
            _match(account, [lines[key] for key in fit.lines], chosen, MatchedBy(fit.by), None, "")
    return sum(len(one.lines) for one in found)


def proposals(account: BankAccount, payouts: Sequence[Awaited]) -> list[Fit]:
    """What a person is asked about: what fits by its amount alone, and what is named and does not come out."""
    return [one for one in _fits(account, payouts) if not one.is_sure]


def _fits(account: BankAccount, payouts: Sequence[Awaited]) -> list[Fit]:
    if not payouts:
        return []
    since = min(one.due_on for one in payouts) - _EARLY
    rows = BankLine.objects.filter(account=account, state=LineState.OPEN, booked_on__gte=since)
    told = rows.order_by("booked_on", "id").values_list(
        "id", "booked_on", "amount", "reference", "end_to_end", "name", "text"
    )  # fmt: skip
    lines = [OpenLine(id=key, booked_on=day, amount=amount, said=" ".join(said))
             for key, day, amount, *said in told[:MOST_LINES]]  # fmt: skip
    return fits(lines, [_asked(one) for one in payouts])


def _asked(one: Awaited) -> AwaitedPayout:
    return AwaitedPayout(
        id=one.payout.pk, amount=one.amount, due_on=one.due_on, within_days=one.within_days, alone=one.alone,
        names=tuple(filter(None, (one.payout.number, one.bank_reference))),
    )  # fmt: skip


def awaited(account: BankAccount, only: Collection[int] | None = None) -> list[Awaited]:
    """The payouts that should arrive on this account, the oldest first; or ``only`` those with these keys."""
    rows = Crossing.objects.filter(
        workspace=account.workspace_id, bridge__books=account.books_id, kind=PAYOUTS, state=CrossingState.CARRIED,
        currency=account.currency,
    )  # fmt: skip
    if only is not None:
        rows = rows.filter(pk__in=only)
    nothing = Value(ZERO, output_field=DecimalField(max_digits=20, decimal_places=4))
    rows = (
        rows.select_related("bridge__source", "bridge__company", "rulebook")
        .defer("planned")
        .annotate(
            arrived=Coalesce(Sum("bank_matches__amount"), nothing),
            arrives_on=KeyTextTransform("arrives_on", "snapshot__content"),
            named=KeyTextTransform("bank_reference", "snapshot__content"),
        )
        .exclude(gross=F("arrived"))
        .order_by("business_date", "pk")
    )
    return list(_of_account(account, rows[:MOST_PAYOUTS]))


def _of_account(account: BankAccount, rows: Sequence[Crossing]) -> Iterator[Awaited]:
    for row in rows:
        rules = parsed(row.rulebook) if row.rulebook is not None else None
        if rules is None or rules.payouts is None or rules.payouts.bank != account.ledger_account:
            continue
        made = row.business_date
        yield Awaited(
            payout=row,
            amount=exact((row.gross or ZERO) - row.arrived, account.currency),  # type: ignore[attr-defined]
            due_on=date.fromisoformat(row.arrives_on) if row.arrives_on else made,  # type: ignore[attr-defined,arg-type]
            on_account=rules.payouts.on_its_way or account.ledger_account,
            bank_reference=row.named or "",  # type: ignore[attr-defined]
            within_days=rules.bank.within_days,
            alone=rules.bank.unnamed == "take the only one",
        )


def match_by_hand(
    account: BankAccount, lines: Sequence[int], payouts: Sequence[int], person: Person, note: str
) -> Sequence[BankLine]:
    """Match these lines and payouts, because a person says so.

    Raises:
        CannotMatch: they do not come to the same sum, one is matched already, or both sides have several.
    """
    with transaction_under(lock_of(account)):
        rows = list(BankLine.objects.filter(account=account, pk__in=lines).order_by("pk"))
        chosen = awaited(account, payouts)
        if len(rows) < len(set(lines)):
            raise CannotMatch("One of these lines is not on this account.")
        taken = next((one for one in rows if one.state == LineState.MATCHED), None)
        if taken is not None:
            raise CannotMatch(f"The line of {taken.booked_on} is matched already: take that back first.")
        if len(chosen) < len(set(payouts)):
            raise CannotMatch("One of these payouts is not awaited on this account: it has arrived, or did not cross.")
        if min(len(rows), len(chosen)) != 1:
            raise CannotMatch("Several lines and several payouts cannot be told apart.")
        if len({one.payout.bridge_id for one in chosen}) > 1:
            raise CannotMatch("These payouts came over different bridges.")
        came, awaited_sum = sum(one.amount for one in rows), sum(one.amount for one in chosen)
        if came != awaited_sum:
            total, left = (exact(Decimal(one), account.currency) for one in (came, came - awaited_sum))
            raise CannotMatch(f"The lines come to {total}, the payouts to {awaited_sum}: {left} are left over.")
        _match(account, rows, chosen, MatchedBy.HAND, person, note)
        record(account.workspace, person, "line.matched", account.slug, lines=len(rows), note=note,
               payouts=", ".join(one.payout.number for one in chosen))  # fmt: skip
    return rows


def take_back(account: BankAccount, line: BankLine, person: Person) -> None:
    """Take back what a line was matched to: it is open again, and what was posted is posted the other way round.

    Raises:
        CannotMatch: it is not matched.
    """
    with transaction_under(lock_of(account)):
        line.refresh_from_db()
        if line.state != LineState.MATCHED:
            raise CannotMatch(f"The line of {line.booked_on} is not matched.")
        matches = list(line.matches.select_related("payout__bridge"))
        LineMatch.objects.filter(line=line).delete()
        _set([line], LineState.OPEN, None, "")
        # Whatever lane it went by goes on to say what the line is now: nothing.
        _stage(account, matches[0].payout.bridge, [(line, [])], only_known=True)
        record(account.workspace, person, "line.opened", account.slug, day=str(line.booked_on),
               payouts=", ".join(one.payout.number for one in matches))  # fmt: skip


def exclude(account: BankAccount, lines: Sequence[int], person: Person, note: str) -> int:
    """Say that these lines are no payouts; those that are matched stay so. Answers how many."""
    rows = BankLine.objects.filter(account=account, pk__in=lines, state=LineState.OPEN)
    changed = rows.update(state=LineState.EXCLUDED, note=note, decided_by=person)
    record(account.workspace, person, "line.excluded", account.slug, lines=changed, note=note)
    return changed


def open_again(account: BankAccount, lines: Sequence[int], person: Person) -> int:
    """Look at these lines again that somebody said are no payouts. Answers how many."""
    rows = BankLine.objects.filter(account=account, pk__in=lines, state=LineState.EXCLUDED)
    changed = rows.update(state=LineState.OPEN, note="", decided_by=None)
    record(account.workspace, person, "line.opened", account.slug, lines=changed)
    return changed


def _match(
    account: BankAccount, lines: Sequence[BankLine], chosen: Sequence[Awaited], by: MatchedBy, person: Person | None,
    note: str,
) -> None:  # fmt: skip
    """Keep that they belong together, and have what stood elsewhere brought to the bank account."""
    now = timezone.now()
    parts = [(line, one, one.amount if len(lines) == 1 else line.amount) for line in lines for one in chosen]
    LineMatch.objects.bulk_create(
        LineMatch(workspace_id=account.workspace_id, line=line, payout=one.payout, amount=amount, by=by, note=note,
                  made_by=person, made_at=now)
        for line, one, amount in parts
    )  # fmt: skip
    _set(lines, LineState.MATCHED, person, note)
    of_line: dict[int, list[ArrivedPayout]] = defaultdict(list)
    for line, one, amount in parts:
        said = {"payout": one.payout.source_id, "number": one.payout.number, "account": one.on_account}
        of_line[line.pk].append(ArrivedPayout.read({**said, "amount": exact(amount, account.currency)}))
    if any(one.on_account != account.ledger_account for one in chosen):
        _stage(account, chosen[0].payout.bridge, [(line, of_line[line.pk]) for line in lines])


def _set(lines: Sequence[BankLine], state: LineState, person: Person | None, note: str) -> None:
    BankLine.objects.filter(pk__in=[one.pk for one in lines]).update(state=state, decided_by=person, note=note)


def _stage(
    account: BankAccount, bridge: Bridge, lines: Sequence[tuple[BankLine, list[ArrivedPayout]]], *,
    only_known: bool = False,
) -> None:  # fmt: skip
    """Have these lines carried as what they are now; with ``only_known`` those alone that were carried before."""
    documents = [_fetched(account, line, parts) for line, parts in lines]
    if only_known:
        known = Crossing.objects.filter(bridge=bridge, kind=ARRIVALS, source_id__in=[one.id for one in documents])
        kept = set(known.values_list("source_id", flat=True))
        documents = [one for one in documents if one.id in kept]
    if documents:
        keep_page(bridge, kind_named(ARRIVALS), documents)


def _fetched(account: BankAccount, line: BankLine, parts: Sequence[ArrivedPayout]) -> Fetched:
    source_id, now = f"{account.slug}-{line.pk}", timezone.now()
    arrival = Arrival.read({
        "id": source_id, "number": line.reference or source_id, "account": account.ledger_account,
        "booked_on": line.booked_on, "changed_at": now, "currency": account.currency, "text": line.text,
        "amount": exact(line.amount, account.currency), "parts": [one.as_json() for one in parts],
    })  # fmt: skip
    return Fetched(id=source_id, number=arrival.number, document=arrival, changed_at=now)
