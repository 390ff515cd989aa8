"""A browser without a page: cookies, and the token that keeps other sites from calling with them."""

from __future__ import annotations

from typing import Any

import httpx

from tests.support.world import PASSWORD


class Visitor:
    """Somebody with a browser."""

    def __init__(self, address: str, *, agent: str = "Loom/1.0") -> None:
        self.address = address
        self.http = httpx.Client(
            base_url=f"{address}/api/v1/", headers={"User-Agent": agent}, trust_env=False, verify=False, timeout=30
        )
        self.get("session")

    def get(self, path: str) -> httpx.Response:
        """Look at something."""
        return self.http.get(path)

    def send(self, method: str, path: str, **body: Any) -> httpx.Response:
        """Do something, as the console does it."""
        return self.http.request(method, path, json=body, headers={"X-CSRFToken": self.http.cookies["inkwell_csrf"]})

    def sign_in(self, email: str, password: str = PASSWORD, **more: Any) -> httpx.Response:
        """Sign in."""
        return self.send("POST", "session", email=email, password=password, **more)

    @property
    def is_in(self) -> bool:
        """Whether the service knows who this is."""
        return bool(self.get("session").json()["signed_in"])
