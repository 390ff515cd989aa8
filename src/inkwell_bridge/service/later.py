"""Trying again later: when, and how the queue is told."""

from __future__ import annotations

import random
from datetime import datetime, timedelta

from django.conf import settings
from django.utils import timezone
from procrastinate import BaseRetryStrategy, RetryDecision
from procrastinate.jobs import Job

from inkwell_bridge.core.errors import InkwellError

LONGEST_PAUSE_SECONDS = 3600.0


class TryLater(InkwellError):
    """The job is to be tried again at ``at``."""

    def __init__(self, reason: str, at: datetime) -> None:
        self.at = at
        super().__init__(reason)


class RetryWhenAsked(BaseRetryStrategy):
    """Try again when the job says so, and only then."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        """See procrastinate's ``BaseRetryStrategy``."""
        return RetryDecision(retry_at=exception.at) if isinstance(exception, TryLater) else None


def after_pause(tries: int, asked_seconds: float | None = None) -> datetime:
    """A moment after a pause that doubles with each try, never shorter than the end asked for; with jitter."""
    pause = min(settings.PAUSE_SECONDS * 2 ** min(tries, 20), LONGEST_PAUSE_SECONDS)
    pause = max(pause, asked_seconds or 0.0) * random.uniform(1.0, 1.25)
    return timezone.now() + timedelta(seconds=pause)
