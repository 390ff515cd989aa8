"""A mail server that keeps what it is sent, for tests: as much of SMTP (RFC 5321) as a sender needs."""

from __future__ import annotations

import socketserver
from collections.abc import Iterator
from contextlib import contextmanager

from tests.support.serving import serving


class MailServer(socketserver.ThreadingTCPServer):
    """Keeps each message as text, in ``messages``; ``refuses`` makes it say no to every recipient."""

    allow_reuse_address = daemon_threads = True

    def __init__(self) -> None:
        self.messages: list[str] = []
        self.refuses = False
        super().__init__(("127.0.0.1", 0), _Session)

    @property
    def address(self) -> str:
        """As ``INKWELL_SMTP`` wants it."""
        return f"smtp+plain://127.0.0.1:{self.server_address[1]}"


class _Session(socketserver.StreamRequestHandler):
    server: MailServer

    def handle(self) -> None:
        """Say yes to everything, and keep what comes as data."""
        self._say("220 mail.example")
        while line := self.rfile.readline().decode().strip():
            command = line[:4].upper()
            if command == "RCPT" and self.server.refuses:
                self._say("550 no such mailbox")
            elif command == "DATA":
                self._say("354 go on")
                lines = iter(lambda: self.rfile.readline().decode().rstrip("\r\n"), ".")
                self.server.messages.append("\n".join(lines))
                self._say("250 kept")
            elif command == "QUIT":
                self._say("221 bye")
                return
            else:
                self._say("250 fine")

    def _say(self, text: str) -> None:
        self.wfile.write(f"{text}\r\n".encode())


@contextmanager
def mail_server() -> Iterator[MailServer]:
    """One that runs while it is needed."""
    with serving(MailServer()) as server:
        yield server
