"""The job that sends a message."""

from __future__ import annotations

import structlog
from django.db import InterfaceError, OperationalError
from procrastinate.contrib.django import app

from inkwell_bridge.core.notices import Message
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.notices.models import Notice, NoticeRule, NoticeState
from inkwell_bridge.service.notices.sending import NotSent, send

log = structlog.get_logger("inkwell.notices")

# With pauses that double, somewhat more than a day.
MOST_TRIES = 15


@app.task(name=queue.SEND_NOTICE, queue=queue.READING, retry=RetryWhenAsked())
def send_notice(*, notice_id: int) -> None:
    """Send one message. One that was sent is not sent again; one whose outcome nobody knows is, as mail always is."""
    notice = Notice.objects.select_related("rule__workspace", "rule__person").filter(pk=notice_id).first()
    if notice is None or notice.state != NoticeState.WAITING:
        return
    rule = notice.rule
    if not rule.on:
        _end(notice, NoticeState.FAILED, "It was switched off before it was sent.")
        return
    try:
        send(rule, Message(subject=notice.subject, text=notice.text), notice.event)
    except NotSent as error:
        log.warning("notice.failed", notice=notice.pk, rule=rule.pk, tries=notice.tries + 1)
        again = error.again and notice.tries + 1 < MOST_TRIES
        NoticeRule.objects.filter(pk=rule.pk).update(last_failure=str(error)[:300])
        if not again:
            _end(notice, NoticeState.FAILED, str(error))
            return
        Notice.objects.filter(pk=notice.pk).update(tries=notice.tries + 1, failure=str(error)[:300])
        raise TryLater(str(error), after_pause(notice.tries)) from error
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
    _end(notice, NoticeState.SENT, "")
    NoticeRule.objects.filter(pk=rule.pk).update(last_sent_at=clock.now(), last_failure="")


def _end(notice: Notice, state: NoticeState, failure: str) -> None:
    sent_at = clock.now() if state == NoticeState.SENT else None
    Notice.objects.filter(pk=notice.pk).update(
        state=state, failure=failure[:300], sent_at=sent_at, tries=notice.tries + 1
    )
