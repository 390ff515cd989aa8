"""Composing the messages that are due: one to a reader for all that is to be sent to them now."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime, time, timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Q, Sum

from inkwell_bridge.core import notices as core
from inkwell_bridge.core.closing import Month
from inkwell_bridge.core.notices import DayOfBridge, Intervals, Reason, ReportedTrouble, TroubleKind, TroubleState
from inkwell_bridge.core.timetable import Times, Timetable, next_after
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.notices import troubles
from inkwell_bridge.service.notices.links import console, stop_link
from inkwell_bridge.service.notices.models import Channel, LastNotice, Notice, NoticeRule, Trouble
from inkwell_bridge.service.people.models import Workspace

# What was over longer ago than this is not sent any more, should nothing have run meanwhile.
STILL_SENT = timedelta(days=7)


def queue_due() -> int:
    """Bring the troubles up to date, and make the messages that are due; answers how many."""
    troubles.update()
    rules = list(
        NoticeRule.objects.select_related("workspace", "person").filter(on=True).order_by("workspace_id", "id")
    )
    if not rules:
        return 0
    workspaces = {rule.workspace_id for rule in rules}
    recent = Q(ended_at=None) | Q(ended_at__gte=clock.now() - STILL_SENT)
    troubles_of: dict[int, list[Trouble]] = defaultdict(list)
    for trouble in Trouble.objects.select_related("bridge__company", "connection").filter(
        recent, workspace__in=workspaces
    ):
        troubles_of[trouble.workspace_id].append(trouble)
    last_of: dict[int, dict[int, LastNotice]] = defaultdict(dict)
    known = [one.pk for of_workspace in troubles_of.values() for one in of_workspace]
    for last in LastNotice.objects.filter(rule__in=rules, trouble__in=known):
        last_of[last.rule_id][last.trouble_id] = last
    return sum(_queue_for(rule, troubles_of[rule.workspace_id], last_of[rule.pk]) for rule in rules)


def intervals() -> Intervals:
    """How long what is watched, by the settings."""
    return Intervals(
        bundle=timedelta(seconds=settings.NOTICE_BUNDLE_SECONDS),
        grew=timedelta(seconds=settings.NOTICE_GREW_SECONDS),
        lasts=timedelta(seconds=settings.NOTICE_LASTS_SECONDS),
    )


def _queue_for(rule: NoticeRule, standing: Sequence[Trouble], last: dict[int, LastNotice]) -> int:
    """The messages that one rule has to send now."""
    now = clock.now()
    quiet = (rule.quiet_from, rule.quiet_until) if rule.quiet_from and rule.quiet_until else None
    if core.is_quiet(now, quiet, rule.time_zone):
        return 0
    made = 0
    meant = [one for one in standing if _is_meant(rule, one)]
    if rule.at_once or _is_due(rule, "next_digest_at", rule.digest_at):
        due = [(one, reason) for one in meant if (reason := _reason(one, last.get(one.pk), now)) is not None]
        if due:
            _send_troubles(rule, due, now)
            made += 1
    if _is_due(rule, "next_summary_at", rule.summary_at):
        _send_summary(rule, meant)
        made += 1
    return made


def _is_meant(rule: NoticeRule, trouble: Trouble) -> bool:
    if rule.kinds and trouble.kind not in rule.kinds:
        return False
    if trouble.bridge is None:
        # An end belongs to every bridge that stands on it.
        return not rule.lanes
    of_bridge = not rule.bridges or trouble.bridge.slug in rule.bridges
    return of_bridge and (not rule.lanes or not trouble.lane or trouble.lane in rule.lanes)


def _reason(trouble: Trouble, last: LastNotice | None, now: datetime) -> Reason | None:
    sent = core.LastNotice(at=last.at, count=last.count, over=last.over) if last else None
    state = TroubleState(opened_at=trouble.opened_at, count=trouble.count, ended_at=trouble.ended_at)
    return core.reason_to_send(state, sent, now, intervals())


def _is_due(rule: NoticeRule, column: str, at: time | None) -> bool:
    """Whether its time of day has come; then the next one is set. The first is the next that comes."""
    if at is None:
        return False
    due: datetime | None = getattr(rule, column)
    now = clock.now()
    if due is not None and due > now:
        return False
    daily = Timetable(time_zone=rule.time_zone, times=Times(at=(at.replace(second=0, microsecond=0),)))
    setattr(rule, column, next_after(daily, now))
    NoticeRule.objects.filter(pk=rule.pk).update(**{column: getattr(rule, column)})
    return due is not None


@transaction.atomic
def _send_troubles(rule: NoticeRule, due: Sequence[tuple[Trouble, Reason]], now: datetime) -> None:
    described = [describe(trouble, reason) for trouble, reason in due]
    stop = stop_link(rule) if rule.channel == Channel.MAIL else ""
    message = core.message(
        rule.workspace.name, described, zone=rule.time_zone, link=console(rule.workspace, "today"), stop=stop
    )
    _queue(rule, message, "inkwell.troubles", {"troubles": [as_event(one) for one in described]})
    sent = [
        LastNotice(
            workspace_id=rule.workspace_id, rule=rule, trouble=trouble, at=now, count=trouble.count,
            over=reason is Reason.OVER,
        )
        for trouble, reason in due
    ]  # fmt: skip
    LastNotice.objects.bulk_create(
        sent, update_conflicts=True, unique_fields=["rule", "trouble"], update_fields=["at", "count", "over"]
    )


@transaction.atomic
def _send_summary(rule: NoticeRule, meant: Sequence[Trouble]) -> None:
    """What is dated the day before, and what waits for somebody."""
    day = (clock.now().astimezone(ZoneInfo(rule.time_zone)) - timedelta(days=1)).date()
    bridges = Bridge.current.filter(workspace=rule.workspace_id).order_by("name")
    chosen = list(bridges.filter(slug__in=rule.bridges) if rule.bridges else bridges)
    rows = (
        Crossing.objects.filter(workspace=rule.workspace_id, bridge__in=chosen, business_date=day)
        .values("bridge", "state", "currency").order_by("bridge", "state")
        .annotate(number=Count("id"), amount=Sum("gross"))
    )  # fmt: skip
    numbers: dict[int, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    carried: dict[int, dict[str, Decimal]] = defaultdict(lambda: defaultdict(Decimal))
    for row in rows:
        numbers[row["bridge"]][row["state"]] += row["number"]
        if row["state"] == CrossingState.CARRIED:
            carried[row["bridge"]][row["currency"]] += row["amount"] or Decimal(0)
    days = [
        DayOfBridge(bridge=one.name, numbers=dict(numbers[one.pk]), carried=dict(carried[one.pk]))
        for one in chosen
        if one.pk in numbers
    ]
    waiting = [describe(one, Reason.LASTS) for one in meant if one.ended_at is None]
    stop = stop_link(rule) if rule.channel == Channel.MAIL else ""
    message = core.summary(rule.workspace.name, day, days, waiting, link=console(rule.workspace, "today"), stop=stop)
    by_bridge = [{"bridge": one.bridge, "documents": one.numbers, "carried": _texts(one.carried)} for one in days]
    said = {"day": day.isoformat(), "bridges": by_bridge, "waiting": [as_event(one) for one in waiting]}
    _queue(rule, message, "inkwell.summary", said)


def _queue(rule: NoticeRule, message: core.Message, kind: str, data: dict[str, Any]) -> None:
    event = {
        "specversion": "1.0",
        "id": uuid4().hex,
        "source": console(rule.workspace, ""),
        "type": kind,
        "time": clock.now().isoformat(),
        "datacontenttype": "application/json",
        "data": {"workspace": rule.workspace.slug, "subject": message.subject, **data},
    }
    notice = Notice.objects.create(
        workspace_id=rule.workspace_id, rule=rule, subject=message.subject, text=message.text, event=event,
        made_at=clock.now(),
    )  # fmt: skip
    queue.defer(queue.SEND_NOTICE, [queue.Call(arguments={"notice_id": notice.pk}, priority=queue.ASKED_FOR)])


def test_message(rule: NoticeRule) -> tuple[core.Message, dict[str, Any]]:
    """What the test button sends."""
    text = (
        f"This is a test, sent because somebody asked for it.\n\nWhat needs somebody in {rule.workspace.name} will be "
        f"told like this.\n\n{console(rule.workspace, 'settings')}\n"
    )
    message = core.Message(subject=f"{rule.workspace.name}: a test of your notices", text=text)
    event = {
        "specversion": "1.0", "id": uuid4().hex, "source": console(rule.workspace, ""), "type": "inkwell.test",
        "time": clock.now().isoformat(), "datacontenttype": "application/json",
        "data": {"workspace": rule.workspace.slug, "subject": message.subject},
    }  # fmt: skip
    return message, event


def describe(trouble: Trouble, reason: Reason) -> ReportedTrouble:
    """A trouble as a message tells it."""
    about = trouble.bridge or trouble.connection
    return ReportedTrouble(
        kind=TroubleKind(trouble.kind), reason=reason, about=about.name if about else "", lane=trouble.lane,
        cause=trouble.cause, count=trouble.count, since=trouble.opened_at, oldest=trouble.oldest, text=trouble.text,
        amounts={currency: Decimal(amount) for currency, amount in trouble.amounts.items()},
        link=console(trouble.workspace, page_of(trouble)),
    )  # fmt: skip


def page_of(trouble: Trouble) -> str:
    """The page on which it is mended."""
    if trouble.kind in (TroubleKind.HELD, TroubleKind.DIFFERS) and trouble.bridge:
        return f"holds?cause={trouble.cause}&bridge={trouble.bridge.slug}&kind={trouble.lane}"
    if trouble.kind == TroubleKind.STATEMENT:
        return f"bank?account={trouble.key.partition(':')[2]}"
    if trouble.kind == TroubleKind.ACCOUNT and trouble.connection:
        return f"clearing?account={trouble.connection.slug}/{trouble.cause}"
    if trouble.kind in (TroubleKind.UNTIED, TroubleKind.CLOSED_MONTH) and trouble.bridge:
        # The key ends with the month that it is about.
        month = Month.read(trouble.key.rpartition(":")[2])
        return f"tie-out?company={trouble.bridge.company.slug}&first={month.first}&last={month.last}"
    if trouble.connection:
        return f"connections/{trouble.connection.slug}"
    return f"bridges/{trouble.bridge.slug}" if trouble.bridge else "today"


def as_event(one: ReportedTrouble) -> dict[str, Any]:
    """A trouble as JSON values."""
    return {
        "kind": one.kind.value, "reason": one.reason.value, "headline": one.headline, "about": one.about,
        "lane": one.lane, "cause": one.cause, "count": one.count, "amounts": _texts(one.amounts),
        "since": one.since.isoformat(), "oldest": one.oldest, "text": one.text, "link": one.link,
    }  # fmt: skip


def _texts(amounts: dict[str, Decimal]) -> dict[str, str]:
    return {currency: str(amount) for currency, amount in amounts.items()}


def open_troubles(workspace: Workspace) -> list[Trouble]:
    """What needs somebody now, the newest change first."""
    rows = Trouble.objects.select_related("bridge__company", "connection", "workspace")
    return list(rows.filter(workspace=workspace, ended_at=None).order_by("-changed_at", "-id"))
