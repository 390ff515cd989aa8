"""Logs as JSON lines. They carry numbers and ids, never personal data or secrets."""

from __future__ import annotations

import structlog

_COMMON = [structlog.stdlib.add_log_level, structlog.stdlib.add_logger_name, structlog.processors.format_exc_info]


def formatter() -> structlog.stdlib.ProcessorFormatter:
    """How every line is written, whoever logs it."""
    return structlog.stdlib.ProcessorFormatter(
        processor=structlog.processors.JSONRenderer(),
        foreign_pre_chain=[structlog.processors.TimeStamper(fmt="iso", utc=True), *_COMMON],
    )


def configure() -> None:
    """Send structlog through the standard library, so that all logs look alike."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            *_COMMON,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.stdlib.ProcessorFormatter.wrap_for_formatter,
        ],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )


def ready(_: object) -> None:
    """Called by the queue once Django is up."""
    configure()
