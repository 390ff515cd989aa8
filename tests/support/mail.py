"""A real mail server for tests (aiosmtpd): it keeps what it is sent."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session


class _AnyPort(Controller):
    """aiosmtpd's controller asks itself whether it is there; on any free port it has to be told which one it got."""

    def _trigger_server(self) -> None:
        self.port = self.server.sockets[0].getsockname()[1]  # type: ignore[union-attr]
        super()._trigger_server()


class MailServer:
    """Keeps each message as text, in ``messages``; ``refuses`` makes it say no to every recipient."""

    def __init__(self) -> None:
        self.messages: list[str] = []
        self.refuses = False
        self.controller = _AnyPort(self, hostname="127.0.0.1", port=0)

    @property
    def address(self) -> str:
        """As ``INKWELL_SMTP`` wants it."""
        port = self.controller.server.sockets[0].getsockname()[1]  # type: ignore[union-attr]
        return f"smtp+plain://127.0.0.1:{port}"

    def read(self) -> list[EmailMessage]:
        """The messages, taken apart."""
        return [message_from_bytes(one.encode(), policy=policy.default) for one in self.messages]  # type: ignore[misc]

    async def handle_RCPT(  # noqa: N802 aiosmtpd's name
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[Any]
    ) -> str:
        """Take every recipient, or none."""
        if self.refuses:
            return "550 no such mailbox"
        envelope.rcpt_tos.append(address)
        return "250 fine"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        """Keep the message."""
        content = envelope.content
        self.messages.append(content.decode() if isinstance(content, bytes) else str(content))
        return "250 kept"


@contextmanager
def mail_server() -> Iterator[MailServer]:
    """One that runs while it is needed."""
    server = MailServer()
    server.controller.start()
    try:
        yield server
    finally:
        server.controller.stop()
