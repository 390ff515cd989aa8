"""Putting jobs on the queue, in the same transaction as what they are about."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.jobs import Job
from procrastinate.manager import JobManager

# The worker's own connector writes outside Django's transaction; this one writes inside.
_jobs = JobManager(DjangoConnector(alias="default"))

QUEUE = "carriage"
READ_RUN = "read_run"
CARRY = "carry"

Arguments = dict[str, int]


def defer(task: str, calls: Iterable[Arguments], *, lock: str, at: datetime | None = None) -> None:
    """Queue one job per call, all in one statement.

    ``lock`` is a pattern over the call's arguments, such as ``crossing:{workspace_id}:{crossing_id}``:
    jobs of the same lock go one after the other.
    """
    jobs = [
        Job(
            id=None,
            queue=QUEUE,
            lock=lock.format(**arguments),
            queueing_lock=None,
            task_name=task,
            task_kwargs=arguments,
            scheduled_at=at,
        )
        for arguments in calls
    ]
    if jobs:
        _jobs.batch_defer_jobs(jobs)
