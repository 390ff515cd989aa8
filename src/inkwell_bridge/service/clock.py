"""The business clock. In the demo it can be set; elsewhere it is the real time.

Pauses, locks and heartbeats never ask it: they run on real time.
"""

from __future__ import annotations

import os
from datetime import UTC, datetime, timedelta
from pathlib import Path


def _file() -> Path | None:
    path = os.environ.get("INKWELL_CLOCK_FILE")
    return Path(path) if path else None


def now() -> datetime:
    """The present moment, in UTC."""
    return of_file(_file())


def of_file(path: Path | None) -> datetime:
    """The present moment by the clock kept in ``path``; the real one where none is kept."""
    if path is None or not path.exists():
        return datetime.now(UTC)
    return datetime.now(UTC) + timedelta(seconds=float(path.read_text("utf-8")))


def set_file(path: Path, moment: datetime) -> None:
    """Let the clock kept in ``path`` go on from ``moment``."""
    offset = (moment - datetime.now(UTC)).total_seconds()
    spare = path.with_suffix(".new")
    spare.write_text(repr(offset), "utf-8")
    spare.replace(path)
