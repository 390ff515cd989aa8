"""Run one worker: it carries until it is told to stop."""

from __future__ import annotations

import asyncio
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from procrastinate.contrib.django import app

from inkwell_bridge.service import queue

CONCURRENCY = 6


class Command(BaseCommand):
    """``work``: start as many as wanted, on any number of machines; they share one queue."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What can be set."""
        parser.add_argument("--concurrency", type=int, default=CONCURRENCY)

    def handle(self, *args: Any, **options: Any) -> None:
        """Work until a signal comes; jobs under way are finished first."""
        with app.replace_connector(app.connector.get_worker_connector()):
            asyncio.run(self._work(options["concurrency"]))

    async def _work(self, concurrency: int) -> None:
        async with app.open_async():
            await app.run_worker_async(
                queues=[queue.QUEUE],
                concurrency=concurrency,
                fetch_job_polling_interval=1.0,
                shutdown_graceful_timeout=20.0,
                update_heartbeat_interval=settings.HEARTBEAT_SECONDS,
                stalled_worker_timeout=settings.STALLED_AFTER_SECONDS,
                delete_jobs="successful",
            )
