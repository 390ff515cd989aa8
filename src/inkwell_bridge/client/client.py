"""The entrance: a service, who one is there, and its workspaces."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any, Self

import httpx

from inkwell_bridge.client.account import AccountCalls
from inkwell_bridge.client.models import Entry, InvitedTo, Kind, Session, Token
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
        code: str = "",
        workspace: str | None = None,
        role: str = "own",
        expires_at: datetime | None = None,
    ) -> str:
        """Make a token with e-mail and password; its text is shown this once.

        ``code`` is that of the authenticator app, or a recovery code, where the second factor is on.
        """
        body = {
            "email": email,
            "password": password,
            "code": code,
            "name": name,
            "workspace": workspace,
            "role": role,
            "expires_at": expires_at.isoformat() if expires_at else None,
        }
        return str(self._transport.send("POST", "/tokens", body=body)["token"])

    def invited_to(self, link: str) -> InvitedTo:
        """What an invitation is to; ``link`` is as it was handed on, or what stands behind its #."""
        return self._transport.one(InvitedTo, "POST", "/invitations", body={"secret": link.rpartition("#")[2]})

    def accept_invitation(self, link: str, *, password: str, name: str = "", code: str = "") -> Entry:
        """Take an invitation up, with the password that one has or chooses now."""
        body = {"secret": link.rpartition("#")[2], "password": password, "name": name, "code": code}
        return self._transport.one(Entry, "POST", "/invitations/accept", body=body)

    def ask_for_reset(self, email: str) -> None:
        """Have a link mailed by which a forgotten password is chosen anew."""
        self._transport.send("POST", "/password/reset", body={"email": email})

    def choose_password(self, link: str, *, new_password: str, withdraw_tokens: bool = False) -> None:
        """Choose a password by the link that was mailed; every browser has to sign in anew."""
        body = {"secret": link.rpartition("#")[2], "new_password": new_password, "withdraw_tokens": withdraw_tokens}
        self._transport.send("POST", "/password/choose", body=body)

    @property
    def account(self) -> AccountCalls:
        """Calls about one's own account."""
        return AccountCalls(self._transport)

    @property
    def token_ends_at(self) -> datetime | None:
        """When the token ends, as soon as a call was answered with a warning of it: two weeks before."""
        return self._transport.token_ends_at

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
        return self._transport.several(Kind, "GET", "/kinds")

    def workspaces(self) -> list[Entry]:
        """The workspaces one has a role in."""
        return self._transport.several(Entry, "GET", "/workspaces")

    def open_workspace(self, *, slug: str, name: str) -> Entry:
        """Open a workspace for another client; whoever owns one may."""
        return self._transport.one(Entry, "POST", "/workspaces", body={"slug": slug, "name": name})

    def workspace(self, slug: str) -> WorkspaceCalls:
        """Calls in one workspace."""
        return WorkspaceCalls(self._transport, slug)

    def openapi(self) -> dict[str, Any]:
        """The description of the API."""
        return dict(self._transport.send("GET", "/openapi.json"))
