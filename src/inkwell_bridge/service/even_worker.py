"""A worker of gunicorn that takes no more connections than its share.

All processes listen on one socket, and whichever wakes first takes a connection. A browser or a program keeps its
connection, so what was uneven at first stays so: of fifty people thirty-five wait for one process while another has
time to spare. Here a process that has more connections than another leaves a new one to that for a moment.
"""

from __future__ import annotations

import mmap
import os
import struct
import time
from socket import socket
from typing import Any

from gunicorn.workers.gthread import ThreadWorker

# How long a connection may wait for the other process, which may be busy, or gone.
PATIENCE_SECONDS, PAUSE_SECONDS = 0.05, 0.001
_ROW = struct.Struct("ii")
_ROWS = 256
# Made by the process over all workers before any of them is: they share it.
_shared = mmap.mmap(-1, _ROW.size * _ROWS)


class EvenWorker(ThreadWorker):  # type: ignore[misc]
    """See above. Each worker keeps its process and its number of connections in a row that all can read."""

    def __init__(self, age: int, *arguments: Any, **options: Any) -> None:
        super().__init__(age, *arguments, **options)
        self._row = age % _ROWS
        self._patient_until = 0.0

    def notify(self) -> None:
        """Called in every round of the worker: say that it is alive, and how many connections it has."""
        super().notify()
        self._say(self.nr_conns)

    def accept(self, listener: socket) -> None:
        """Take the connection, unless another has fewer and may take it yet."""
        now = time.monotonic()
        if self._another_has_fewer():
            if not self._patient_until:
                self._patient_until = now + PATIENCE_SECONDS
            if now < self._patient_until:
                # The listener stays readable until somebody has taken it, and calls here again at once.
                time.sleep(PAUSE_SECONDS)
                return
        self._patient_until = 0.0
        super().accept(listener)
        self._say(self.nr_conns)

    def _say(self, connections: int) -> None:
        _ROW.pack_into(_shared, self._row * _ROW.size, os.getpid() if self.alive else 0, connections)

    def _another_has_fewer(self) -> bool:
        return any(
            process not in {0, os.getpid()} and connections < self.nr_conns and self._lives(row, process)
            for row, (process, connections) in enumerate(_ROW.iter_unpack(_shared))
        )

    def _lives(self, row: int, process: int) -> bool:
        """Whether a worker is still there; one that was killed never cleared its row."""
        try:
            os.kill(process, 0)
        except ProcessLookupError:
            _ROW.pack_into(_shared, row * _ROW.size, 0, 0)
            return False
        return True
