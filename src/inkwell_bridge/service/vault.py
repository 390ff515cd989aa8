"""Secrets at rest: encrypted with the newest key, bound to whoever they belong to."""

from __future__ import annotations

import json
from functools import cache

from cryptography.fernet import Fernet, InvalidToken, MultiFernet

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.service import environment


class Unreadable(InkwellError):
    """Credentials were encrypted under a key that is not here any more, or for another connection."""


@cache
def _ring() -> MultiFernet:
    return MultiFernet([Fernet(key) for key in environment.encryption_keys()])


def seal(credentials: dict[str, str], *, owner: str) -> bytes:
    """Encrypt credentials for ``owner``: the workspace and name of a connection, or a person."""
    return _ring().encrypt(json.dumps({"owner": owner, "credentials": credentials}).encode())


def unseal(sealed: bytes, *, owner: str) -> dict[str, str]:
    """Decrypt credentials.

    Raises:
        Unreadable: no key fits, or they were moved here from another connection.
    """
    try:
        content = json.loads(_ring().decrypt(bytes(sealed)))
    except InvalidToken as error:
        raise Unreadable(
            "No key at hand decrypts these credentials. Enter them again, or bring the key back."
        ) from error
    # A row that was copied to another client's connection must open nothing there.
    if content["owner"] != owner:
        raise Unreadable("These credentials belong to another connection.")
    return dict(content["credentials"])


def unseal_or_nothing(sealed: bytes, *, owner: str) -> dict[str, str]:
    """Decrypt credentials where they can be, so that new ones can take the place of a part of them."""
    try:
        return unseal(sealed, owner=owner)
    except Unreadable:
        return {}


def resealed(sealed: bytes) -> bytes:
    """The same credentials under the newest key."""
    return _ring().rotate(bytes(sealed))
