"""Logs as JSON lines. They carry numbers and ids, never personal data or secrets."""

from __future__ import annotations

import re
from collections.abc import MutableMapping
from typing import Any

import structlog

# What PostgreSQL adds to an error holds the values that it is about: an e-mail, a name of a client.
_DETAIL = re.compile(r"^\s*(?:DETAIL|CONTEXT|QUERY|HINT|LINE \d+):.*$", re.M)
_INPUT = re.compile(r"(invalid (?:input )?(?:syntax|value|byte sequence)[^:\n]*: ).*$", re.M)


def _without_values(_: Any, __: str, event: MutableMapping[str, Any]) -> MutableMapping[str, Any]:
    """Hide in an error's text what the database repeats of the values it was given."""
    for name in ("event", "exception"):
        if isinstance(event.get(name), str):
            event[name] = _INPUT.sub(r"\1(hidden)", _DETAIL.sub("(hidden)", event[name]))
    return event


_COMMON = [
    structlog.stdlib.add_log_level, structlog.stdlib.add_logger_name, structlog.processors.format_exc_info,
    _without_values,
]  # fmt: skip


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
