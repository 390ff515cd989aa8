"""Signing in at an end through its own consent page: the authorisation code with a proof key (RFC 6749, RFC 7636).

A person is sent to the page and says there what we may do; the page sends them back with a code, which opens
nothing without the key that never left us.
"""

from __future__ import annotations

import base64
import hashlib
import secrets
from dataclasses import dataclass
from typing import Protocol, Self

from inkwell_bridge.ends.tokens import Token


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofKey:
    """The key of one sign-in: ``verifier`` stays here, ``challenge`` goes to the page (RFC 7636, method S256)."""

    verifier: str

    @classmethod
    def fresh(cls) -> Self:
        """One that nobody can guess."""
        return cls(verifier=secrets.token_urlsafe(48))

    @property
    def challenge(self) -> str:
        """What the page is shown of it."""
        digest = hashlib.sha256(self.verifier.encode("ascii")).digest()
        return base64.urlsafe_b64encode(digest).rstrip(b"=").decode("ascii")


class Consent(Protocol):
    """An end that people sign in to."""

    def page(self, *, state: str, challenge: str, return_to: str) -> str:
        """The address of the consent page, for somebody's browser."""

    def redeem(self, *, code: str, verifier: str, return_to: str) -> Token:
        """The token for a code that the page gave.

        Raises:
            Refused: with ``why`` sign-in, for a code that is spent, too old or not ours.
        """
