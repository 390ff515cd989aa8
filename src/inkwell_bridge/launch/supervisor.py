"""Several processes as one: started together, restarted when one dies, stopped together."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import subprocess
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

PR_SET_PDEATHSIG = 1
MOST_RESTARTS = 5
STOP_TIMEOUT_SECONDS = 25.0


class ProcessFailed(Exception):
    """A process would not stay up; the text ends with what it said last."""


@dataclass(slots=True, kw_only=True)
class Part:
    """One process to keep running; its output goes to ``log``."""

    name: str
    command: Sequence[str]
    environment: Mapping[str, str]
    log: Path
    process: subprocess.Popen[bytes] | None = None
    restarts: list[float] = field(default_factory=list)

    def start(self) -> None:
        """Start it, in a session of its own: a Ctrl-C of the terminal reaches the supervisor alone."""
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                self.command,
                env={**os.environ, **self.environment},
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                start_new_session=True,
                preexec_fn=_die_with_parent,
            )

    def died(self) -> bool:
        """Whether it ended by itself."""
        return self.process is not None and self.process.poll() is not None

    def last_words(self) -> str:
        """The end of its output."""
        return self.log.read_text("utf-8", errors="replace")[-1500:] if self.log.exists() else ""


def _die_with_parent() -> None:
    """Ask the kernel for a signal when the supervisor is gone, however it went."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


class Supervisor:
    """Keeps its parts running until told to stop."""

    def __init__(self, parts: Sequence[Part]) -> None:
        self.parts = list(parts)

    def start(self) -> None:
        """Start all parts, in order."""
        for part in self.parts:
            part.start()

    def look_after(self) -> None:
        """Restart what died.

        Raises:
            ProcessFailed: a part dies again and again.
        """
        for part in self.parts:
            if not part.died():
                continue
            now = time.monotonic()
            part.restarts = [at for at in part.restarts if now - at < 60] + [now]
            if len(part.restarts) > MOST_RESTARTS:
                raise ProcessFailed(f"{part.name} does not stay up. It said last:\n{part.last_words()}")
            time.sleep(0.2 * len(part.restarts))
            part.start()

    def stop(self) -> None:
        """Stop all parts, the last started first; what does not listen is killed."""
        running = [part.process for part in reversed(self.parts) if part.process and part.process.poll() is None]
        for process in running:
            _signal(process, signal.SIGTERM)
        deadline = time.monotonic() + STOP_TIMEOUT_SECONDS
        for process in running:
            try:
                process.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                _signal(process, signal.SIGKILL)
                process.wait()


def _signal(process: subprocess.Popen[bytes], number: signal.Signals) -> None:
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process.pid, number)
