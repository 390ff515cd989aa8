"""The entrance: a service, who one is there, and its workspaces."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any, Self

import httpx

from inkwell_bridge.client.models import Entry, Kind, Session, Token
from inkwell_bridge.client.transport import Transport
from inkwell_bridge.client.workspace import WorkspaceCalls


class Client:
    """One service under one token."""

    def __init__(
        self,
        address: str,
        *,
        token: str | None = None,
        timeout_seconds: float = 60.0,
        transport: httpx.BaseTransport | None = None,
    ) -> None:
        self._transport = Transport(address, token=token, timeout_seconds=timeout_seconds, transport=transport)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._transport.close()

    def make_token(
        self,
        *,
        email: str,
        password: str,
        name: str,
        workspace: str | None = None,
        role: str = "own",
        expires_at: datetime | None = None,
    ) -> str:
        """Make a token with e-mail and password; its text is shown this once."""
        body = {
            "email": email,
            "password": password,
            "name": name,
            "workspace": workspace,
            "role": role,
            "expires_at": expires_at.isoformat() if expires_at else None,
        }
        return str(self._transport.send("POST", "/tokens", body=body)["token"])

    def tokens(self) -> Iterator[Token]:
        """One's own tokens."""
        return self._transport.pages(Token, "/tokens")

    def withdraw_token(self, number: int) -> None:
        """Withdraw a token; it is refused from now on."""
        self._transport.send("DELETE", f"/tokens/{number}")

    def session(self) -> Session:
        """Who one is."""
        return self._transport.one(Session, "GET", "/session")

    def kinds(self) -> list[Kind]:
        """The dialects that connections can speak."""
        return [Kind.model_validate(item) for item in self._transport.send("GET", "/kinds")]

    def workspaces(self) -> list[Entry]:
        """The workspaces one has a role in."""
        return [Entry.model_validate(item) for item in self._transport.send("GET", "/workspaces")]

    def open_workspace(self, *, slug: str, name: str) -> Entry:
        """Open a workspace for another client; whoever owns one may."""
        return self._transport.one(Entry, "POST", "/workspaces", body={"slug": slug, "name": name})

    def workspace(self, slug: str) -> WorkspaceCalls:
        """Calls in one workspace."""
        return WorkspaceCalls(self._transport, slug)

    def openapi(self) -> dict[str, Any]:
        """The description of the API."""
        return dict(self._transport.send("GET", "/openapi.json"))
