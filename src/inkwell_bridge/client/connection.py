"""Calls about one connection."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport

CHECK_SECONDS = 120.0
FIRST_PAUSE_SECONDS, LONGEST_PAUSE_SECONDS = 0.05, 1.0


class ConnectionCalls:
    """Calls about one connection."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def read(self) -> models.Connection:
        """It, with its state."""
        return self._transport.one(models.Connection, "GET", self._path)

    def checked(self, asked: models.Connection, *, seconds: float = CHECK_SECONDS) -> models.Connection:
        """It, once the check that was asked for is done; as it is after so many seconds, where no worker got to it."""
        found, pause = asked, FIRST_PAUSE_SECONDS
        deadline = time.monotonic() + seconds
        while found.checking and time.monotonic() < deadline:
            time.sleep(pause)
            pause = min(pause * 1.5, LONGEST_PAUSE_SECONDS)
            found = self.read()
        return found.model_copy(update={"mended": asked.mended})

    def change(self, **fields: Any) -> models.Connection:
        """Change name, address, company or credentials; answers once it was checked."""
        return self.checked(self._transport.one(models.Connection, "PATCH", self._path, body=fields))

    def check(self) -> models.Connection:
        """Ask the end who it is and what we may do; answers once that is done."""
        return self.checked(self._transport.one(models.Connection, "POST", f"{self._path}/check"))

    def pause(self) -> models.Connection:
        """Let nothing be read from it or sent to it until it goes on."""
        return self._transport.one(models.Connection, "PUT", f"{self._path}/pause")

    def go_on(self) -> models.Connection:
        """Let it go on."""
        return self._transport.one(models.Connection, "DELETE", f"{self._path}/pause")

    def call_address(self) -> models.CallAddress:
        """Where the end calls us, which secrets are good, and when it last called."""
        return self._transport.one(models.CallAddress, "GET", f"{self._path}/call-address")

    def expect_calls(self, *, within_minutes: int) -> models.CallAddress:
        """Say how long it may be silent; 0: it promises nothing."""
        body = {"expected_within_minutes": within_minutes}
        return self._transport.one(models.CallAddress, "PATCH", f"{self._path}/call-address", body=body)

    def new_call_secret(self, given: str = "") -> str:
        """A secret to sign with from now on, or the one that the other end gave; shown this once."""
        body = {"secret": given} if given else {}
        return self._transport.one(
            models.CallSecretText, "POST", f"{self._path}/call-address/secrets", body=body
        ).secret

    def end_call_secret(self, number: int) -> None:
        """Refuse what is signed with it from now on."""
        self._transport.send("DELETE", f"{self._path}/call-address/secrets/{number}")

    def registered_calls(self) -> models.CallRegistration:
        """Ask the end whom it calls."""
        return self._transport.one(models.CallRegistration, "GET", f"{self._path}/call-address/registration")

    def register_calls(self) -> models.CallRegistration:
        """Have the end call us, signed with a new secret; again, to renew it."""
        return self._transport.one(models.CallRegistration, "PUT", f"{self._path}/call-address/registration")

    def end_calls(self) -> None:
        """Have the end call nobody."""
        self._transport.send("DELETE", f"{self._path}/call-address/registration")

    def incoming_calls(self, *, state: str = "", number: str = "") -> Iterator[models.IncomingCall]:
        """The calls that came, the newest first."""
        query = {name: value for name, value in {"state": state, "number": number}.items() if value}
        return self._transport.pages(models.IncomingCall, f"{self._path}/incoming-calls", query=query)

    def begin_sign_in(self, *, return_to: str) -> models.SignInBegun:
        """Begin to sign in through the end's consent page, which sends the browser back to ``return_to``."""
        return self._transport.one(models.SignInBegun, "POST", f"{self._path}/sign-in", body={"return_to": return_to})

    def finish_sign_in(self, *, state: str, code: str = "", error: str = "") -> models.Connection:
        """Finish a sign-in with what the browser came back with; answers once the end was checked."""
        body = {"state": state, "code": code, "error": error}
        return self.checked(self._transport.one(models.Connection, "POST", f"{self._path}/sign-in/finish", body=body))

    def reference(self) -> models.MasterData:
        """The short lists, as they were loaded last."""
        return self._transport.one(models.MasterData, "GET", f"{self._path}/reference")

    def load_master_data(self) -> models.MasterData:
        """Load the short lists anew, at once."""
        return self._transport.one(models.MasterData, "POST", f"{self._path}/reference")

    def load(self, *parts: str) -> list[models.Loading]:
        """Have its names loaded in the background: all, or some of lists, items, contacts, products, customers."""
        body = {"parts": list(parts)} if parts else {}
        return self._transport.several(models.Loading, "POST", f"{self._path}/loadings", body=body)

    def loadings(self) -> Iterator[models.Loading]:
        """Every going-over of its names, newest first."""
        return self._transport.pages(models.Loading, f"{self._path}/loadings")

    def name_kinds(self) -> list[models.NameKind]:
        """Its lists, with what the last loading changed in each."""
        return self._transport.several(models.NameKind, "GET", f"{self._path}/names")

    def names(self, kind: str, **filters: Any) -> Iterator[models.Name]:
        """One of its lists; filters: q (part of a code or name), change (added, changed, gone), active."""
        return self._transport.pages(models.Name, f"{self._path}/names/{kind}", filters)

    def switch(self, company_name: str, *, company: str | None = None, confirm: bool = False) -> models.Connection:
        """Give it to the company that the end says it is, whose name is typed.

        Raises:
            NotConfirmed: without ``confirm``, with what would end.
        """
        body: dict[str, Any] = {"company_name": company_name, "confirm": confirm}
        body |= {"company": company} if company else {}
        return self._transport.one(models.Connection, "POST", f"{self._path}/switch", body=body)

    def switch_back(self) -> models.Connection:
        """Take the newest switch back, within a day; its links stand again, and its lanes are on again."""
        return self._transport.one(models.Connection, "POST", f"{self._path}/switch-back")

    def remove(self, *, confirm: bool = False) -> None:
        """Remove it, once no bridge stands on it; its credentials are erased.

        Raises:
            NotConfirmed: without ``confirm``, with what would end.
        """
        self._transport.send("DELETE", self._path, query={"confirm": "true"} if confirm else None)
