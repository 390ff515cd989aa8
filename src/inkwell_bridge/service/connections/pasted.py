"""What people paste: addresses and keys are cleaned, and what was cleaned is said."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import urlsplit

_AROUND = "<>\"'“”‘’«»"
# What a copied text brings along unseen: a byte order mark, spaces without width, soft hyphens.
_UNSEEN = dict.fromkeys(map(ord, "\ufeff\u200b\u200c\u200d\u2060\u00ad"))


def mended_address(pasted: str) -> tuple[str, list[str]]:
    """A pasted address without what does not belong there, and what was mended.

    Raises:
        ValueError: it is no address, or holds a user and password; the value is not in the text, for it may be secret.
    """
    mended: list[str] = []
    address = "".join(pasted.translate(_UNSEEN).split())
    if address != pasted:
        mended.append("spaces and line breaks were taken out")
    if (bare := address.strip(_AROUND)) != address:
        address = bare
        mended.append("the quotation marks around it were taken away")
    if "://" not in address:
        address = f"https://{address}"
        mended.append("a missing https:// was added")
    try:
        parts = urlsplit(address)
        host, port = parts.hostname, parts.port
    except ValueError:
        parts, host, port = urlsplit(""), None, None
    if parts.username or parts.password:
        raise ValueError("expected an address without user and password; they belong in the credentials")
    if parts.scheme.lower() not in {"http", "https"} or not host:
        raise ValueError("expected an address such as https://shop.example/api, with http or https")
    if parts.query or parts.fragment:
        mended.append("what followed ? or # was taken away")
    path = "/".join(part for part in parts.path.split("/") if part)
    if parts.path.rstrip("/") != f"/{path}".rstrip("/"):
        mended.append("doubled slashes were made one")
    if parts.path.endswith("/"):
        mended.append("the slash at its end was taken away")
    shown = f"[{host}]" if ":" in host else host
    place = f"{parts.scheme.lower()}://{shown}" + (f":{port}" if port else "")
    return place + (f"/{path}" if path else ""), mended


def mended_credentials(pasted: Mapping[str, Any], schema: Mapping[str, Any]) -> tuple[dict[str, str], list[str]]:
    """Credentials without the spaces and line breaks that pasting leaves around them, and what was mended."""
    titles = {name: field.get("title", name) for name, field in schema.get("properties", {}).items()}
    clean: dict[str, str] = {}
    mended: list[str] = []
    for name, value in pasted.items():
        clean[name] = str(value).translate(_UNSEEN).strip()
        if clean[name] != str(value):
            mended.append(f"spaces and line breaks around “{titles.get(name, name)}” were taken away")
    return clean, mended
