"""Ports of this machine that nobody listens on."""

from __future__ import annotations

import errno
import random
import socket

# Below what the kernel gives to outgoing connections by itself: one of those may take a port between our look and our
# listening there.
OUTSIDE_EPHEMERAL = range(20_000, 32_000)
# By the system's own chance, for several processes may have seeded theirs alike; none is given out twice.
_chance = random.SystemRandom()
_given: set[int] = set()


def free(preferred: int = 0) -> int:
    """The preferred port where nobody listens there, else any."""
    if preferred and _is_free(preferred):
        return preferred
    while True:
        port = _chance.choice(OUTSIDE_EPHEMERAL)
        if port not in _given and _is_free(port):
            _given.add(port)
            return port


def _is_free(port: int) -> bool:
    with socket.socket() as listener:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except OSError as error:
            if error.errno in (errno.EADDRINUSE, errno.EACCES):
                return False
            raise
    return True
