"""Matching lines to what is awaited: by itself where it is sure, by hand, and taken back."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import timedelta
from decimal import Decimal

from django.db.models import Exists, OuterRef
from django.utils import timezone

from inkwell_bridge.core.bank import Fit, OpenLine, fits
from inkwell_bridge.core.money import exact
from inkwell_bridge.service import queue
from inkwell_bridge.service.bank.awaited import Awaited, awaited
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineMatch, LineState, MatchedBy, MatchTakenBack
from inkwell_bridge.service.bank.reading import lock_of
from inkwell_bridge.service.bank.settling import Part, settle, undo
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

ZERO = Decimal(0)
# So many of the oldest lines are looked at; who has more waiting has another question to answer first.
MOST_LINES = 50_000
_GATHERED_FOR = timedelta(seconds=1)
# A bank may be early by a few days, and a provider may have told a day that it did not keep.
_EARLY = timedelta(days=60)


class CannotMatch(Refusal):
    """Lines and what is awaited that do not belong together."""

    code = "cannot-match"
    hint = "One line may be several payouts or invoices, or several lines one; of payouts both sides come to one sum."


def look_for(books: Connection) -> None:
    """Have what is sure matched on every bank account of these books that has open lines: a job for each, unless one
    waits already. Three statements."""
    lines = BankLine.objects.filter(account=OuterRef("pk"), state=LineState.OPEN)
    accounts = BankAccount.objects.filter(books=books).filter(Exists(lines))
    keys = list(accounts.values_list("pk", flat=True))
    if not keys:
        return
    # One that is under way may have looked already; what comes together is looked for once.
    asked = queue.pending(queue.MATCH_LINES, "account_id", keys, under_way=False)
    queue.defer(
        queue.MATCH_LINES,
        [
            queue.Call(arguments={"account_id": key}, lock=f"bank lines {key}", at=timezone.now() + _GATHERED_FOR)
            for key in keys
            if key not in asked
        ],
    )


def match_sure(account: BankAccount) -> int:
    """Match what is sure; answers how many lines. Expects no transaction, or the one that brought what is new."""
    with transaction_under(lock_of(account)):
        there = awaited(account)
        found = [one for one in _fits(account, there) if one.is_sure]
        by_key = {one.of.pk: one for one in there}
        lines = BankLine.objects.in_bulk([line for fit in found for line in fit.lines])
        parts: list[Part] = []
        for fit in found:
            chosen = [by_key[key] for key in fit.awaited]
            parts += _parts(account, [lines[key] for key in fit.lines], chosen, MatchedBy(fit.by), None, "")
        _match(account, parts)
    return sum(len(one.lines) for one in found)


def proposals(account: BankAccount, there: Sequence[Awaited]) -> list[Fit]:
    """What a person is asked about: what fits by its amount alone, and what is named and does not come out."""
    return [one for one in _fits(account, there) if not one.is_sure]


def _fits(account: BankAccount, there: Sequence[Awaited]) -> list[Fit]:
    if not there:
        return []
    since = min(one.due_on for one in there) - _EARLY
    rows = BankLine.objects.filter(account=account, state=LineState.OPEN, booked_on__gte=since)
    told = rows.order_by("booked_on", "id").values_list(
        "id", "booked_on", "amount", "reference", "end_to_end", "name", "text"
    )  # fmt: skip
    is_not = _taken_back(account)
    lines = [
        OpenLine(
            id=key, booked_on=day, amount=exact(amount, account.currency), said=" ".join(said),
            is_not=is_not.get(key, frozenset()),
        )
        for key, day, amount, *said in told[:MOST_LINES]
    ]  # fmt: skip
    return fits(lines, [one.asked() for one in there])


def _taken_back(account: BankAccount) -> Mapping[int, frozenset[int]]:
    """What each open line is not, as somebody said who took its match back; one statement."""
    rows = MatchTakenBack.objects.filter(line__account=account, line__state=LineState.OPEN)
    of_line: dict[int, set[int]] = defaultdict(set)
    for line, crossing in rows.values_list("line_id", "crossing_id"):
        of_line[line].add(crossing)
    return {line: frozenset(its) for line, its in of_line.items()}


def match_by_hand(
    account: BankAccount, lines: Sequence[int], chosen: Sequence[int], person: Person, note: str
) -> Sequence[BankLine]:
    """Match these lines and what is awaited (by the numbers of their crossings), because a person says so.

    Raises:
        CannotMatch: they do not come to the same sum, one is matched already, or both sides have several. Money of one
            order or invoice may be less than is open, or more: what is more is owed to the buyer.
    """
    with transaction_under(lock_of(account)):
        rows = list(BankLine.objects.filter(account=account, pk__in=lines).order_by("booked_on", "pk"))
        there = awaited(account, chosen)
        _refuse_what_cannot_be(rows, lines, there, chosen)
        came, awaited_sum = (sum((one.amount for one in its), ZERO) for its in (rows, there))
        one_way = all((one.amount < 0) == (awaited_sum < 0) for one in rows)
        in_parts = len(there) == 1 and not there[0].is_payout and one_way
        if came != awaited_sum and not in_parts:
            total, left = (exact(one, account.currency) for one in (came, came - awaited_sum))
            names = "payouts" if there[0].is_payout else "documents"
            raise CannotMatch(f"The lines come to {total}, the {names} to {awaited_sum}: {left} are left over.")
        _match(account, _parts(account, rows, there, MatchedBy.HAND, person, note))
        record(account.workspace, person, "line.matched", account.slug, lines=len(rows), note=note,
               documents=", ".join(one.number for one in there))  # fmt: skip
    return rows


def _refuse_what_cannot_be(
    rows: Sequence[BankLine], lines: Sequence[int], there: Sequence[Awaited], chosen: Sequence[int]
) -> None:
    if len(rows) < len(set(lines)):
        raise CannotMatch("One of these lines is not on this account.")
    taken = next((one for one in rows if one.state == LineState.MATCHED), None)
    if taken is not None:
        raise CannotMatch(f"The line of {taken.booked_on} is matched already: take that back first.")
    if len(there) < len(set(chosen)):
        raise CannotMatch(
            "One of these is not awaited on this account: it is there already, did not cross, or its rules do not "
            "believe the bank (payments: told_by)."
        )
    if min(len(rows), len(there)) != 1:
        raise CannotMatch("Several lines and several documents cannot be told apart.")
    if len({(one.of.bridge_id, one.of.kind) for one in there}) > 1:
        raise CannotMatch("These came over different bridges, or are of different kinds.")


def take_back(account: BankAccount, line: BankLine, person: Person) -> None:
    """Take back what a line was matched to: it is open again, and what was posted is posted the other way round. It is
    not matched to the same again but by hand.

    Raises:
        CannotMatch: it is not matched.
    """
    with transaction_under(lock_of(account)):
        line.refresh_from_db()
        if line.state != LineState.MATCHED:
            raise CannotMatch(f"The line of {line.booked_on} is not matched.")
        matches = list(line.matches.select_related("line", "crossing__bridge"))
        undo(account, line, matches)
        # What it says has not changed: without this the next look for what is sure would match it again.
        MatchTakenBack.objects.bulk_create(
            [MatchTakenBack(workspace_id=one.workspace_id, line=line, crossing=one.crossing) for one in matches]
        )
        LineMatch.objects.filter(line=line).delete()
        _set([line], LineState.OPEN, None, "")
        record(account.workspace, person, "line.opened", account.slug, day=str(line.booked_on),
               documents=", ".join(one.crossing.number for one in matches))  # fmt: skip


def exclude(account: BankAccount, lines: Sequence[int], person: Person, note: str) -> int:
    """Say that these lines are nothing awaited; those that are matched stay so. Answers how many."""
    rows = BankLine.objects.filter(account=account, pk__in=lines, state=LineState.OPEN)
    changed = rows.update(state=LineState.EXCLUDED, note=note, decided_by=person)
    record(account.workspace, person, "line.excluded", account.slug, lines=changed, note=note)
    return changed


def open_again(account: BankAccount, lines: Sequence[int], person: Person) -> int:
    """Look at these lines again that somebody excluded. Answers how many."""
    rows = BankLine.objects.filter(account=account, pk__in=lines, state=LineState.EXCLUDED)
    changed = rows.update(state=LineState.OPEN, note="", decided_by=None)
    record(account.workspace, person, "line.opened", account.slug, lines=changed)
    return changed


def _parts(
    account: BankAccount, lines: Sequence[BankLine], chosen: Sequence[Awaited], by: MatchedBy, person: Person | None,
    note: str,
) -> list[Part]:  # fmt: skip
    """How much of each line is which of these: of one line that is several, each has all of its own."""
    now = timezone.now()
    return [
        Part(
            match=LineMatch(
                workspace_id=account.workspace_id, line=line, crossing=one.of, by=by, note=note, made_by=person,
                made_at=now, amount=one.amount if len(chosen) > 1 else line.amount,
            ),
            on_account=one.on_account,
        )
        for line in lines
        for one in chosen
    ]  # fmt: skip


def _match(account: BankAccount, parts: Sequence[Part]) -> None:
    """Keep that they belong together, and have what follows from it carried. As many statements for many as for one."""
    if not parts:
        return
    matches = [one.match for one in parts]
    LineMatch.objects.bulk_create(matches)
    MatchTakenBack.objects.filter(line__in={one.line for one in matches}).delete()
    _set([one.line for one in matches], LineState.MATCHED, matches[0].made_by, matches[0].note)
    settle(account, parts)


def _set(lines: Sequence[BankLine], state: LineState, person: Person | None, note: str) -> None:
    BankLine.objects.filter(pk__in=[one.pk for one in lines]).update(state=state, decided_by=person, note=note)
