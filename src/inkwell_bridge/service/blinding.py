"""Digests by which secrets and what tells of a person can be found again, and not read."""

from __future__ import annotations

import hashlib
import hmac

from inkwell_bridge.service import environment


def blind(text: str, *, purpose: str) -> str:
    """A digest of ``text`` that means something for one ``purpose`` alone.

    Its key is one of its own: it must outlive every change of the encryption keys.
    """
    return hmac.new(environment.blinding_key().encode(), f"{purpose}:{text}".encode(), hashlib.sha256).hexdigest()


def digest_of_secret(secret: str) -> str:
    """The digest by which a random secret of ours is looked up: tokens, links, sessions.

    Without key or salt, for no dictionary holds what is drawn by chance.
    """
    return hashlib.sha256(secret.encode()).hexdigest()
