"""Calls about one connection."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class ConnectionCalls:
    """Calls about one connection."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def read(self) -> models.Connection:
        """It, with its state."""
        return self._transport.one(models.Connection, "GET", self._path)

    def change(self, **fields: Any) -> models.Connection:
        """Change name, address, company or credentials; it is checked at once."""
        return self._transport.one(models.Connection, "PATCH", self._path, body=fields)

    def check(self) -> models.Connection:
        """Ask the end who it is and what we may do."""
        return self._transport.one(models.Connection, "POST", f"{self._path}/check")

    def begin_sign_in(self, *, return_to: str) -> models.SignInBegun:
        """Begin to sign in through the end's consent page, which sends the browser back to ``return_to``."""
        return self._transport.one(models.SignInBegun, "POST", f"{self._path}/sign-in", body={"return_to": return_to})

    def finish_sign_in(self, *, state: str, code: str = "", error: str = "") -> models.Connection:
        """Finish a sign-in with what the browser came back with; the end is checked at once."""
        body = {"state": state, "code": code, "error": error}
        return self._transport.one(models.Connection, "POST", f"{self._path}/sign-in/finish", body=body)

    def reference(self) -> models.MasterData:
        """The short lists, as they were loaded last."""
        return self._transport.one(models.MasterData, "GET", f"{self._path}/reference")

    def load_master_data(self) -> models.MasterData:
        """Load the short lists anew, at once."""
        return self._transport.one(models.MasterData, "POST", f"{self._path}/reference")

    def load(self, *parts: str) -> list[models.Loading]:
        """Have its names loaded in the background: all, or some of lists, items, contacts, products, customers."""
        body = {"parts": list(parts)} if parts else {}
        found = self._transport.send("POST", f"{self._path}/loadings", body=body)
        return [models.Loading.model_validate(item) for item in found]

    def loadings(self) -> Iterator[models.Loading]:
        """Every going-over of its names, newest first."""
        return self._transport.pages(models.Loading, f"{self._path}/loadings")

    def name_kinds(self) -> list[models.NameKind]:
        """Its lists, with what the last loading changed in each."""
        return [models.NameKind.model_validate(item) for item in self._transport.send("GET", f"{self._path}/names")]

    def names(self, kind: str, **filters: Any) -> Iterator[models.Name]:
        """One of its lists; filters: q (part of a code or name), change (added, changed, gone), active."""
        return self._transport.pages(models.Name, f"{self._path}/names/{kind}", filters)

    def switch(self, company_name: str, *, company: str | None = None) -> models.Connection:
        """Give it to the company that the end says it is; its name is typed to say that this is meant."""
        body = {"company_name": company_name} | ({"company": company} if company else {})
        return self._transport.one(models.Connection, "POST", f"{self._path}/switch", body=body)
