"""Who may come in, and for how long: codes, tokens and their renewal (RFC 6749, RFC 7636).

A token for renewal is good once. Should the answer with the next one get lost, the old one still serves as long
as nothing of the new was used; a spent one that turns up later ends the grant, for somebody may have stolen it
(RFC 9700, section 4.14.2).
"""

from __future__ import annotations

import base64
import hashlib
import secrets
import time
from typing import Any
from urllib.parse import urlsplit

from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
CODE_SECONDS = 60.0
TOKEN_SECONDS = 3600.0


class NotGranted(Exception):
    """No token is given; the text is a code of RFC 6749, section 5.2."""


class Grants:
    """The marketplace's codes and tokens, world by world."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def code(self, world: str, *, challenge: str, return_to: str, scopes: list[str]) -> str:
        """A code for an application that somebody let in."""
        code = secrets.token_urlsafe(24)
        body = {"challenge": challenge, "return_to": return_to, "scopes": scopes, "ends": time.time() + CODE_SECONDS}
        self.store.add(world, "code", body, find=code)
        return code

    def for_code(self, world: str, form: Json) -> Json:
        """Tokens for a code, once, for whoever has the key to its challenge."""
        found = self.store.search(world, "code", form.get("code", ""))
        if not found or not form.get("code"):
            raise NotGranted("invalid_grant")
        code = found[0]
        self.store.put(world, "code", code["id"], {**code, "ends": 0})
        digest = hashlib.sha256(form.get("code_verifier", "").encode()).digest()
        fits = secrets.compare_digest(base64.urlsafe_b64encode(digest).rstrip(b"=").decode(), code["challenge"])
        if not fits or code["ends"] < time.time() or form.get("redirect_uri") != code["return_to"]:
            raise NotGranted("invalid_grant")
        refresh = secrets.token_urlsafe(32)
        grant = self.store.add(world, "grant", {"scopes": code["scopes"], "refresh": refresh, "before": ""})
        return self._given(world, code["scopes"], grant=grant, refresh=refresh)

    def renewed(self, world: str, form: Json) -> Json:
        """The next tokens of a grant."""
        old = form.get("refresh_token", "")
        grant = next((one for one in self.store.all(world, "grant") if old in {one["refresh"], one["before"]}), None)
        if grant is None or not old:
            raise NotGranted("invalid_grant")
        if old == grant["before"] and grant["used"]:
            self.store.put(world, "grant", grant["id"], {**grant, "refresh": "", "before": "", "over": True})
            raise NotGranted("invalid_grant")
        refresh = secrets.token_urlsafe(32)
        self.store.put(world, "grant", grant["id"], {**grant, "refresh": refresh, "before": old, "used": False})
        return self._given(world, grant["scopes"], grant=grant["id"], refresh=refresh)

    def for_application(self, world: str, scopes: list[str]) -> Json:
        """A token for the application itself."""
        return self._given(world, scopes, grant=0, refresh="")

    def scopes_of(self, world: str, access: str) -> list[str] | None:
        """What a token opens; nothing where it is unknown or has ended."""
        found = self.store.search(world, "token", access) if access else []
        if not found or found[0]["ends"] < time.time():
            return None
        grant = self.store.get(world, "grant", found[0]["grant"])
        if grant is not None:
            if grant.get("over"):
                return None
            if found[0]["refresh"] == grant["refresh"] and not grant.get("used"):
                self.store.put(world, "grant", grant["id"], {**grant, "used": True})
        return list(found[0]["scopes"])

    def end_all(self, world: str) -> None:
        """Take every code, token and grant back."""
        for kind in ("code", "token", "grant"):
            self.store.forget(world, kind)

    def _given(self, world: str, scopes: list[str], *, grant: int, refresh: str) -> Json:
        lasts = (self.store.get(world, "company", 1) or {}).get("token_seconds", TOKEN_SECONDS)
        access = secrets.token_urlsafe(32)
        body = {"scopes": scopes, "grant": grant, "refresh": refresh, "ends": time.time() + lasts}
        self.store.add(world, "token", body, find=access)
        answer = {"access_token": access, "token_type": "Bearer", "expires_in": lasts, "scope": " ".join(scopes)}
        return {**answer, "refresh_token": refresh} if refresh else answer


def may_return_to(registered: list[str], address: str) -> bool:
    """Whether a browser may be sent back there; on loopback any port will do (RFC 8252, section 7.3)."""
    loopback = _without_port(address)
    return address in registered or (loopback is not None and loopback in map(_without_port, registered))


def _without_port(address: str) -> tuple[str, str] | None:
    parts = urlsplit(address)
    return (parts.hostname, parts.path) if parts.hostname in {"127.0.0.1", "::1"} and parts.scheme == "http" else None
