"""Waiting for a browser to come back from a consent page: a listener on loopback (RFC 8252, section 7.3)."""

from __future__ import annotations

import time
from http.server import BaseHTTPRequestHandler, HTTPServer
from types import TracebackType
from typing import Self
from urllib.parse import parse_qs, urlsplit

PATH = "/signed-in"
_SAID = (
    "<!doctype html><html lang=en><meta charset=utf-8><title>Inkwell Bridge</title>"
    "<p>That is all here. Go back to your terminal: it says what came of it."
)


class Listener:
    """Listens for one return; nothing but a browser on this machine can reach it."""

    def __init__(self) -> None:
        self._came_back: dict[str, str] | None = None
        self._server = HTTPServer(("127.0.0.1", 0), self._handler())

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._server.server_close()

    @property
    def address(self) -> str:
        """Where the consent page sends the browser back to."""
        return f"http://127.0.0.1:{self._server.server_port}{PATH}"

    def wait(self, state: str, *, seconds: float) -> dict[str, str] | None:
        """What the browser came back with under this state; nothing where it did not come in time."""
        deadline = time.monotonic() + seconds
        while (left := deadline - time.monotonic()) > 0:
            self._server.timeout = left
            self._server.handle_request()
            if self._came_back is not None and self._came_back.get("state") == state:
                return self._came_back
        return None

    def _handler(self) -> type[BaseHTTPRequestHandler]:
        listener = self

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                parts = urlsplit(self.path)
                if parts.path != PATH:
                    self.send_error(404)
                    return
                listener._came_back = {name: values[0] for name, values in parse_qs(parts.query).items()}
                self.send_response(200)
                self.send_header("Content-Type", "text/html; charset=utf-8")
                self.end_headers()
                self.wfile.write(_SAID.encode())

            def log_message(self, *_: object) -> None:
                """Say nothing: the address holds a code."""

        return Handler
