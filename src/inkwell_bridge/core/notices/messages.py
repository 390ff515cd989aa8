"""The words of a message: what, how much money, since when, and where it is mended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from enum import StrEnum
from zoneinfo import ZoneInfo

from inkwell_bridge.core.cause_words import CAUSE_WORDS
from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.money import digits
from inkwell_bridge.core.notices.reasons import Reason

LONGEST_SUBJECT = 150
MOST_DESCRIBED = 20


class TroubleKind(StrEnum):
    """What sort of trouble it is."""

    HELD = "held"
    DIFFERS = "differs"
    RUN_FAILED = "run failed"
    END = "end"
    SILENT = "silent"
    STATEMENT = "statement"
    ACCOUNT = "account"
    UNTIED = "untied day"
    CLOSED_MONTH = "closed month"


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportedTrouble:
    """One trouble as a message tells it.

    ``about`` is the name of the bridge or the end; ``amounts`` are by currency; ``text`` is what the end or the run
    said; ``link`` leads to where it is mended.
    """

    kind: TroubleKind
    reason: Reason
    about: str
    lane: str = ""
    cause: str = ""
    count: int = 0
    amounts: dict[str, Decimal] = field(default_factory=dict)
    since: datetime
    oldest: str = ""
    text: str = ""
    link: str = ""

    @property
    def headline(self) -> str:
        """In one line, such as: 40 orders held, 1,234.50 GBP: a tax class has no tax code (Web shop to UK books)."""
        return f"{_what(self)} ({self.about})"


@dataclass(frozen=True, slots=True)
class Message:
    """A message: its subject and its text."""

    subject: str
    text: str


_REASONS = {Reason.NEW: "New", Reason.GREW: "Grew", Reason.LASTS: "Still there", Reason.OVER: "Well again"}


def message(client: str, troubles: Sequence[ReportedTrouble], *, zone: str, link: str, stop: str) -> Message:
    """One message for all of these; ``stop`` is the link that ends such messages, where there is one."""
    first = troubles[0]
    more = f", and {len(troubles) - 1} more" if len(troubles) > 1 else ""
    subject = f"{client}: {first.headline}{more}"
    lines: list[str] = []
    for one in troubles[:MOST_DESCRIBED]:
        lines += [*_described(one, zone), ""]
    if len(troubles) > MOST_DESCRIBED:
        lines += [f"And {len(troubles) - MOST_DESCRIBED} more.", ""]
    lines += [f"All of it: {link}"]
    if stop:
        lines += [f"To get no more of these: {stop}"]
    return Message(subject=_short(subject), text="\n".join(lines) + "\n")


@dataclass(frozen=True, slots=True, kw_only=True)
class DayOfBridge:
    """What became of a day's documents of one bridge: numbers by state, amounts carried by currency."""

    bridge: str
    numbers: dict[str, int]
    carried: dict[str, Decimal]


def summary(
    client: str, day: date, bridges: Sequence[DayOfBridge], waiting: Sequence[ReportedTrouble], *, link: str, stop: str
) -> Message:
    """The quiet message of a day: what crossed, and what waits for somebody."""
    # What waits is counted in documents, as what is carried is: troubles alone would say one for four hundred.
    carried = sum(one.numbers.get("carried", 0) for one in bridges)
    subject = f"{client}, {day.day} {day:%B %Y}: {_counted(carried, 'document')} carried"
    subject += f", {_counted(sum(one.count for one in waiting), 'document')} waiting for somebody" if waiting else ""
    lines = [f"What is dated {day.day} {day:%B %Y}, as it stands now:", ""]
    for one in bridges:
        told = ", ".join(f"{number} {state}" for state, number in one.numbers.items())
        money = _money(one.carried)
        lines.append(f"  {one.bridge}: {told}{f'; carried {money}' if money else ''}")
    if not bridges:
        lines.append("  Nothing.")
    lines += ["", "Waiting for somebody:", ""]
    lines += [f"  {one.headline}" for one in waiting] or ["  Nothing."]
    lines += ["", f"Today's page: {link}"]
    if stop:
        lines += [f"To get no more of these: {stop}"]
    return Message(subject=_short(subject), text="\n".join(lines) + "\n")


# What these count does not wait for anything.
_COUNTING_OTHERS = (TroubleKind.UNTIED, TroubleKind.CLOSED_MONTH)


def _what(one: ReportedTrouble) -> str:
    if one.reason is Reason.OVER:
        return _over(one)
    money = _money(one.amounts)
    behind = f", {money}" if money else ""
    documents = _counted(one.count, one.lane.removesuffix("s") or "document")
    if one.kind in (TroubleKind.HELD, TroubleKind.DIFFERS):
        verb = "held" if one.kind is TroubleKind.HELD else "not as planned"
        return f"{documents} {verb}{behind}: {CAUSE_WORDS.get(one.cause, one.cause)}"
    waiting = f"; {documents} waiting{behind}" if one.count and one.kind not in _COUNTING_OTHERS else ""
    said = {
        TroubleKind.RUN_FAILED: "A run failed",
        TroubleKind.END: one.cause or "An end does not answer",
        TroubleKind.SILENT: "Not heard, though it should have called",
        TroubleKind.STATEMENT: f"A bank statement was refused: {one.cause}",
        TroubleKind.ACCOUNT: f"Account {one.cause} does not prove",
        TroubleKind.UNTIED: f"{_counted(one.count, 'day')} that tied {'does' if one.count == 1 else 'do'} no longer",
        TroubleKind.CLOSED_MONTH: f"{documents} changed in {one.cause}, which is closed",
    }[one.kind]
    return f"{said}{waiting}"


def _over(one: ReportedTrouble) -> str:
    if one.kind in (TroubleKind.HELD, TroubleKind.DIFFERS):
        return f"No {one.lane or 'documents'} held any more: {CAUSE_WORDS.get(one.cause, one.cause)}"
    return {
        TroubleKind.RUN_FAILED: "Runs again",
        TroubleKind.END: "Answers again",
        TroubleKind.SILENT: "Heard again",
        TroubleKind.STATEMENT: f"Statements are read again: {one.cause}",
        TroubleKind.ACCOUNT: f"Account {one.cause} proves again",
        TroubleKind.UNTIED: "Every day ties again that had tied",
        TroubleKind.CLOSED_MONTH: f"{one.cause} is as it was closed, or open again",
    }[one.kind]


def _described(one: ReportedTrouble, zone: str) -> list[str]:
    since = one.since.astimezone(ZoneInfo(zone))
    lines = [f"{_REASONS[one.reason]}: {one.headline}"]
    if one.text:
        lines.append(f"  {one.text}")
    oldest = f"; the oldest is {one.oldest}" if one.oldest else ""
    lines.append(f"  Since {since.day} {since:%B %Y, %H:%M} ({zone}){oldest}.")
    if one.link and one.reason is not Reason.OVER:
        lines.append(f"  {one.link}")
    return lines


def _money(amounts: dict[str, Decimal]) -> str:
    return " and ".join(_amount(amount, currency) for currency, amount in sorted(amounts.items()) if amount)


def _amount(amount: Decimal, currency: str) -> str:
    try:
        return f"{amount:,.{digits(currency)}f} {currency}"
    except NotExact:
        # A currency that the table does not have holds its document, and is told of as it came.
        return f"{amount:,f} {currency}"


def _counted(number: int, one: str) -> str:
    return f"{number:,} {one}{'' if number == 1 else 's'}"


def _short(subject: str) -> str:
    # A line break in a subject would be another head of the mail.
    clean = " ".join(subject.split())
    return clean if len(clean) <= LONGEST_SUBJECT else f"{clean[: LONGEST_SUBJECT - 1]}…"
