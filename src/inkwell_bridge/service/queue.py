"""Putting jobs on the queue, in the same transaction as what they are about.

Three queues, so that none waits for another: ``reading`` (what is new at an end, lists of names, checks), ``carrying``
(documents), and what keeps the rest going, which is in no queue at all (``upkeep.py``).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import connection
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.jobs import Job
from procrastinate.manager import JobManager

# The worker's own connector writes outside Django's transaction; this one writes inside.
_jobs = JobManager(DjangoConnector(alias="default"))

# The priority of what somebody waits for.
ASKED_FOR = 10
READING = "reading"
CARRYING = "carrying"
READ_RUN = "read_run"
CARRY = "carry"
LOAD = "load_names"
CHECK = "check_connection"
MATCH = "match_links"
MATCH_LINES = "match_lines"
READ_AGAIN = "read_again"
ERASE = "erase_buyer"
REHEARSE = "rehearse"
PROPOSE = "propose_rules"
PROVE_ACCOUNT = "prove_account"
CHECK_COMPLETENESS = "check_completeness"
LOOK_AT_CALLED = "look_at_called"
READ_STATEMENTS = "read_statements"
SEND_NOTICE = "send_notice"
MAIL_RESET = "mail_reset"


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """One job to be: jobs of the same ``lock`` go one after the other, the highest ``priority`` first, and none before
    ``at``.

    One that is to be tried again later still comes before those behind it.
    """

    arguments: dict[str, Any]
    lock: str | None = None
    priority: int = 0
    at: datetime | None = None


def is_worked_on() -> bool:
    """Whether any worker gave a sign of life lately."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT 1 FROM procrastinate_workers "
            "WHERE last_heartbeat > now() - make_interval(secs => %s))",
            [settings.STALLED_AFTER_SECONDS],
        )
        return bool(cursor.fetchone()[0])


def pending(task: str, name: str, values: Iterable[int], *, under_way: bool = True) -> set[int]:
    """Those of ``values`` that are the argument ``name`` of a job of that task which waits or, unless that does not
    count, is under way."""
    states = ["todo", "doing"] if under_way else ["todo"]
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT DISTINCT (args ->> %s)::bigint FROM procrastinate_jobs "
            "WHERE status::text = ANY(%s) AND task_name = %s AND (args ->> %s)::bigint = ANY(%s)",
            [name, states, task, name, list(values)],
        )
        return {row[0] for row in cursor.fetchall()}


def defer(task: str, calls: Iterable[Call], *, queue: str = READING) -> None:
    """Queue one job per call, all in one statement."""
    jobs = [
        Job(
            id=None,
            queue=queue,
            lock=call.lock,
            queueing_lock=None,
            task_name=task,
            task_kwargs=call.arguments,
            priority=call.priority,
            scheduled_at=call.at,
        )
        for call in calls
    ]
    if jobs:
        _jobs.batch_defer_jobs(jobs)
