"""A server in a thread of its own, for as long as it is needed."""

from __future__ import annotations

import socketserver
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TypeVar

Server = TypeVar("Server", bound=socketserver.BaseServer)


@contextmanager
def serving(server: Server) -> Iterator[Server]:
    """The server, while it answers."""
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield server
    finally:
        server.shutdown()
        server.server_close()
