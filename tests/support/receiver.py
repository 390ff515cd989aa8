"""Somebody who is called: takes signed calls, checks them, and can be told to misbehave."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, ClassVar

from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from tests.support.serving import serving


class Receiver(ThreadingHTTPServer):
    """Keeps what it was told, in ``events``, once its signature was checked with ``secret``; ``how`` it answers:
    well, 500, redirect, or slowly."""

    daemon_threads = True

    def __init__(self) -> None:
        self.secret = ""
        self.how = "well"
        self.events: list[dict[str, Any]] = []
        self.badly_signed = self.calls = self.led_on = 0
        super().__init__(("127.0.0.1", 0), _Call)

    @property
    def address(self) -> str:
        """Where it is called."""
        return f"http://127.0.0.1:{self.server_address[1]}/hook"


class _Call(BaseHTTPRequestHandler):
    server: Receiver
    protocol_version = "HTTP/1.1"
    log_message = lambda *_: None  # noqa: E731 nothing is printed
    ANSWERS: ClassVar[dict[str, int]] = {"500": 500, "redirect": 302}

    def do_GET(self) -> None:
        """Only who follows a redirect comes here."""
        self.server.led_on += 1
        self._answer(200)

    def do_POST(self) -> None:
        """Take a call."""
        body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
        self.server.calls += 1
        if self.path == "/elsewhere":
            self.server.led_on += 1
        if self.server.how == "slowly":
            time.sleep(20)
        if self.server.how in self.ANSWERS:
            self._answer(self.ANSWERS[self.server.how])
            return
        try:
            Webhook(self.server.secret).verify(body, dict(self.headers.items()), json_parse=False)
        except (WebhookVerificationError, ValueError, RuntimeError):
            self.server.badly_signed += 1
            self._answer(401)
            return
        self.server.events.append({**json.loads(body), "content-type": self.headers["Content-Type"]})
        self._answer(204)

    def _answer(self, status: int) -> None:
        self.send_response(status)
        if status == 302:
            self.send_header("Location", "/elsewhere")
        self.send_header("Content-Length", "0")
        self.end_headers()


@contextmanager
def receiver() -> Iterator[Receiver]:
    """One that answers while it is needed."""
    with serving(Receiver()) as server:
        yield server
