"""Accepting what is open in a month, proposing it, closing it, opening it again."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import date
from typing import Any
from zoneinfo import ZoneInfo

from django.db import connection, transaction

from inkwell_bridge.core.closing import (
    BrokenLink,
    ClosedReport,
    Month,
    MonthReport,
    OpenItem,
    ReportAccountRow,
    ReportRow,
    Seal,
    broken_links,
    checksum_of,
    not_accepted,
)
from inkwell_bridge.core.closing.seal import BEFORE_THE_FIRST
from inkwell_bridge.core.values import canonical
from inkwell_bridge.service import clock
from inkwell_bridge.service.carriage.models import DayTotal
from inkwell_bridge.service.closing.freezing import in_words, month_report, scope_of
from inkwell_bridge.service.closing.later_changes import lock_name
from inkwell_bridge.service.closing.models import AcceptedDifference, ClosingProposal, MonthClosing, Reopening
from inkwell_bridge.service.closing.open_differences import items_of
from inkwell_bridge.service.locks import ClaimLost, Claims
from inkwell_bridge.service.people.models import Company, Person, TrailEntry
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# So long a closing waits for whoever is writing figures just now.
WAITS_SECONDS = 10
_NAMED = 10
# What the trail calls it.
CLOSED = "month.closed"


class NotOver(Refusal):
    """The month has not ended yet."""

    code = "month-not-over"
    hint = "A month is closed once its last day is over, by the company's own clocks."


class AlreadyClosed(Refusal):
    """The month is closed."""

    code = "month-closed"
    hint = "An owner can open it again, with a note that says why."


class NotClosed(Refusal):
    """The month is not closed."""

    code = "month-open"
    hint = "Only a closed month can be opened again."


class EarlierOpen(Refusal):
    """A month before it is open still."""

    code = "earlier-month-open"
    hint = "Months are closed in their order; close that one first."


class StillOpen(Refusal):
    """Something is open in the month that nobody has accepted."""

    code = "month-differs"
    hint = "Mend what is open, or accept each item with a note; then close it."

    def __init__(self, month: Month, items: Sequence[OpenItem]) -> None:
        self._items = items
        named = ", ".join(_named(item) for item in items[:_NAMED])
        more = f", and {len(items) - _NAMED} more" if len(items) > _NAMED else ""
        super().__init__(f"{month} cannot be closed while this is open: {named}{more}.")

    def members(self) -> dict[str, Any]:
        """The items."""
        return {"items": [item.as_json() for item in self._items]}


class DoesNotAddUp(Refusal):
    """The sheet's parts do not add up to its difference."""

    code = "sheet-does-not-add-up"
    hint = "Nobody can accept this: it is a fault of Inkwell Bridge itself. Send its support bundle."


class NoSuchItem(Refusal):
    """Nothing like that is open in the month, or not as it was shown."""

    code = "item-changed"
    hint = "Look at what is open now, and accept that."


class OtherEyes(Refusal):
    """By the company's rule a second person is needed."""

    code = "second-person-needed"

    def __init__(self, text: str, hint: str) -> None:
        self.hint = hint
        super().__init__(text)


class BusyFigures(Refusal):
    """Documents are being written without a pause."""

    status = 503
    code = "figures-busy"
    hint = "Try again in a minute, or pause the bridge meanwhile."


def closing_of(company: Company, month: Month) -> MonthClosing | None:
    """The closing that stands, or none where the month is open."""
    rows = MonthClosing.objects.filter(company=company, month=month.first, reopening=None)
    return rows.select_related("closed_by", "company").first()


def proposal_of(company: Company, month: Month) -> ClosingProposal | None:
    """Who has proposed to close it."""
    return ClosingProposal.objects.filter(company=company, month=month.first).select_related("person").first()


def accept(
    company: Company, month: Month, person: Person, *, reason: str, detail: str, fingerprint: str, note: str
) -> AcceptedDifference:
    """Accept an open item as it is now.

    Raises:
        AlreadyClosed: the month is closed.
        NoSuchItem: nothing like that is open, or not with these documents and amounts.
    """
    _refuse_closed(company, month)
    items = {(item.reason.value, item.detail): item for item in items_of(scope_of(company, month))}
    item = items.get((reason, detail))
    if item is None:
        raise NoSuchItem(f"Nothing is {reason} in {month} any more.")
    if item.fingerprint != fingerprint:
        raise NoSuchItem(f"What is {reason} in {month} is not what it was: {item.documents} documents by now.")
    with transaction.atomic():
        made = AcceptedDifference.objects.create(
            workspace=company.workspace, company=company, month=month.first, reason=reason, detail=detail,
            item=item.as_json(), note=note, person=person, at=clock.now(),
        )  # fmt: skip
        record(company.workspace, person, "difference.accepted", f"{company.slug} {month}", reason=reason,
               detail=detail, documents=item.documents, note=note)  # fmt: skip
    return made


def withdraw(accepted: AcceptedDifference, person: Person) -> None:
    """Take an acceptance back.

    Raises:
        AlreadyClosed: the month is closed.
    """
    month = Month.of(accepted.month)
    _refuse_closed(accepted.company, month)
    with transaction.atomic():
        rows = AcceptedDifference.objects.filter(pk=accepted.pk, withdrawn_at=None)
        if rows.update(withdrawn_at=clock.now(), withdrawn_by=person):
            record(accepted.company.workspace, person, "difference.not-accepted", f"{accepted.company.slug} {month}",
                   reason=accepted.reason, detail=accepted.detail)  # fmt: skip


def propose(company: Company, month: Month, person: Person, note: str) -> ClosingProposal:
    """Propose to close a month as it is now; another person closes it.

    Raises:
        Refusal: it cannot be closed as it is; see ``close``.
    """
    with _still_figures(company):
        report = _closable(company, month)
        proposal, _ = ClosingProposal.objects.update_or_create(
            company=company, month=month.first,
            defaults={"workspace": company.workspace, "person": person, "at": clock.now(), "note": note,
                      "digest": _digest(report)},
        )  # fmt: skip
        record(company.workspace, person, "month.proposed", f"{company.slug} {month}", note=note)
    return proposal


def close(company: Company, month: Month, person: Person, note: str) -> MonthClosing:
    """Close a month: its figures are frozen, with a checksum that is chained to the closing before.

    Raises:
        NotOver, AlreadyClosed, EarlierOpen: the calendar stands against it.
        StillOpen: something is open that nobody accepted.
        OtherEyes: by the company's rule another person proposes it first, and it must be as it was proposed.
        BusyFigures: figures were being written all the time.
    """
    with _still_figures(company):
        report = _closable(company, month)
        proposal = proposal_of(company, month)
        if company.two_close:
            _refuse_same_eyes(proposal, person, report)
        before = MonthClosing.objects.filter(company=company).order_by("-number").defer("content").first()
        seal = Seal(
            number=before.number + 1 if before else 1,
            closed_by=in_words(person),
            closed_at=clock.now(),
            note=note,
            proposed_by=in_words(proposal.person) if proposal and proposal.person_id != person.pk else "",
            previous=before.checksum if before else BEFORE_THE_FIRST,
        )
        seal = seal.model_copy(update={"checksum": checksum_of(report, seal)})
        made = MonthClosing.objects.create(
            workspace=company.workspace, company=company, month=month.first, number=seal.number,
            content=ClosedReport(report=report, seal=seal).as_json(), checksum=seal.checksum, note=note,
            closed_by=person, closed_at=seal.closed_at,
        )  # fmt: skip
        ClosingProposal.objects.filter(company=company, month=month.first).delete()
        record(company.workspace, person, CLOSED, f"{company.slug} {month}", number=made.number,
               checksum=made.checksum, note=note)  # fmt: skip
    return made


def take_proposal_back(company: Company, month: Month, person: Person) -> None:
    """Propose it no longer; nothing where nobody did."""
    with transaction.atomic():
        if ClosingProposal.objects.filter(company=company, month=month.first).delete()[0]:
            record(company.workspace, person, "month.not-proposed", f"{company.slug} {month}")


def reopen(company: Company, month: Month, person: Person, note: str) -> Reopening:
    """Open a closed month again; its closing stays in the chain, and the next one comes after it.

    Raises:
        NotClosed: it is open.
    """
    closing = closing_of(company, month)
    if closing is None:
        raise NotClosed(f"{month} of {company.name} is not closed.")
    with transaction.atomic():
        made = Reopening.objects.create(
            workspace=company.workspace, closing=closing, person=person, at=clock.now(), note=note
        )
        record(company.workspace, person, "month.reopened", f"{company.slug} {month}", number=closing.number,
               note=note)  # fmt: skip
    return made


def verify(company: Company) -> tuple[int, list[BrokenLink]]:
    """How many closings a company has, and where their chain does not hold: each checksum is worked out anew from the
    figures."""
    rows = MonthClosing.objects.filter(company=company).order_by("number")
    broken, number = list(broken_links(_chain(rows.iterator(chunk_size=20)))), rows.count()
    # A chain does not show that its last links are gone; the trail, which nobody can change either, knows them.
    on_trail = TrailEntry.objects.filter(
        workspace=company.workspace_id, action=CLOSED, about__startswith=f"{company.slug} "
    ).count()
    if number != on_trail:
        broken.append(BrokenLink(on_trail, f"By the trail there were {on_trail} closings; here are {number}."))
    return number, broken


def _chain(rows: Iterator[MonthClosing]) -> Iterator[tuple[MonthReport, Seal]]:
    for row in rows:
        kept = ClosedReport.read(row.content)
        if kept.seal is not None:
            yield kept.report, kept.seal


@contextmanager
def _still_figures(company: Company) -> Iterator[None]:
    """A transaction that sees one state of everything, while nobody changes a figure of this company's past months.

    Whoever wrote one before is seen; whoever writes one afterwards sees that the month is closed
    (``later_changes``): no change falls between. One closing of a company at a time; what is carried today goes on.

    Raises:
        BusyFigures: somebody was writing for longer than a closing waits.
    """
    busy = BusyFigures("Documents of past months are being written, and their figures did not come to rest.")
    with Claims() as claims:
        if not claims.wait_for((lock_name(company.pk),), WAITS_SECONDS):
            raise busy
        with transaction.atomic():
            with connection.cursor() as cursor:
                # Begun under the lock: what is read is of the moment of the first question from here on.
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            yield
            try:
                claims.verify()
            except ClaimLost as error:
                raise busy from error


def _closable(company: Company, month: Month) -> MonthReport:
    """The report of a month that may be closed as it is.

    Raises:
        Refusal: as ``close``, but for a second person.
    """
    _refuse_closed(company, month)
    if month.last >= clock.now().astimezone(ZoneInfo(company.time_zone)).date():
        raise NotOver(f"{month} is not over yet.")
    earlier = _earlier_open(company, month)
    if earlier is not None:
        raise EarlierOpen(f"{earlier} of {company.name} is open still.")
    report = month_report(company, month)
    for row in (*report.headline, *report.tax_codes, *report.accounts, *report.tenders):
        left = row.difference
        for part in row.parts:
            left = left.less(part.totals)
        if not left.nothing:
            raise DoesNotAddUp(f"Of {_name_of(row)}, {row.currency}, the parts leave {left.count} "
                               f"documents, net {left.net}, tax {left.tax}, gross {left.gross}.")  # fmt: skip
    left = not_accepted(report.open_items, {one.item.fingerprint for one in report.accepted})
    if left:
        raise StillOpen(month, left)
    return report


def _name_of(row: ReportRow) -> str:
    account = row.account if isinstance(row, ReportAccountRow) else ""
    return row.section or row.tax_code or account or row.tender


def _earlier_open(company: Company, month: Month) -> Month | None:
    """The first month before it, since anything was closed, that has figures and is open."""
    closed = set(MonthClosing.objects.filter(company=company, reopening=None).values_list("month", flat=True))
    before = [day for day in closed if day < month.first]
    if not before:
        return None
    days = DayTotal.objects.filter(
        workspace=company.workspace_id, bridge__company=company, date__gt=min(before), date__lt=month.first
    ).exclude(section="")
    months = {Month.of(day) for day in days.values_list("date", flat=True).distinct()}
    return min((one for one in months if one.first not in closed), default=None)


def _refuse_closed(company: Company, month: Month) -> None:
    closing = closing_of(company, month)
    if closing is not None:
        raise AlreadyClosed(
            f"{month} of {company.name} was closed by {closing.closed_by.email} on {_day(closing.closed_at.date())}."
        )


def _refuse_same_eyes(proposal: ClosingProposal | None, person: Person, report: MonthReport) -> None:
    if proposal is None:
        raise OtherEyes("By the company's rule two people close a month, and nobody has proposed it yet.",
                      "Propose it; then somebody else closes it.")  # fmt: skip
    if proposal.person_id == person.pk:
        raise OtherEyes("You proposed this month; by the company's rule another person closes it.",
                      "Ask somebody else to close it.")  # fmt: skip
    if proposal.digest != _digest(report):
        raise OtherEyes(f"The figures are not those that {proposal.person.email} proposed.",
                      "Look at what changed, and propose the month again.")  # fmt: skip


def _digest(report: MonthReport) -> str:
    return hashlib.sha256(canonical(report.as_json()).encode()).hexdigest()


def _named(item: OpenItem) -> str:
    what = f"{item.reason.value}: {item.detail}" if item.detail else item.reason.value
    return f"{what} ({item.documents} document{'' if item.documents == 1 else 's'})"


def _day(day: date) -> str:
    return f"{day.day} {day:%B %Y}"
