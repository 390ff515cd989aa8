"""Free ports on loopback."""

from __future__ import annotations

import socket


def free(wanted: int = 0) -> int:
    """``wanted``, where nobody listens there; else one that is free."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise OSError("no port on 127.0.0.1 is free")
