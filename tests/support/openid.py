"""A provider of identities, for tests: as much of OpenID Connect as a client needs, and able to misbehave."""

from __future__ import annotations

import base64
import hashlib
import json
import secrets
import time
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

import jwt
from cryptography.hazmat.primitives.asymmetric import rsa

from tests.support.serving import serving

CLIENT, SECRET = "inkwell-bridge", "a-secret-of-the-provider"


class Provider(ThreadingHTTPServer):
    """Says of everybody who comes that they are ``person``; ``changed`` are claims that it tells otherwise."""

    daemon_threads = True

    def __init__(self) -> None:
        self.person: dict[str, Any] = {}
        self.changed: dict[str, Any] = {}
        self.signs_with_another_key = self.says_no = self.floods = False
        self.codes: dict[str, dict[str, str]] = {}
        self.key, self.other_key = (rsa.generate_private_key(public_exponent=65537, key_size=2048) for _ in range(2))
        super().__init__(("127.0.0.1", 0), _Answers)

    @property
    def issuer(self) -> str:
        """As ``INKWELL_OPENID_ISSUER`` wants it."""
        return f"http://127.0.0.1:{self.server_address[1]}"

    def come_back(self, page: str) -> str:
        """Where whoever goes to ``page`` is sent back to."""
        asked = {name: values[0] for name, values in parse_qs(urlsplit(page).query).items()}
        code = secrets.token_urlsafe(8)
        self.codes[code] = asked
        told = {"error": "access_denied"} if self.says_no else {"code": code}
        return f"{asked['redirect_uri']}?{urlencode({**told, 'state': asked['state']})}"

    def word(self, asked: dict[str, str]) -> str:
        """The signed word of who somebody is."""
        now = int(time.time())
        claims = {"iss": self.issuer, "aud": CLIENT, "iat": now, "exp": now + 300, "nonce": asked["nonce"],
                  **self.person, **self.changed}  # fmt: skip
        key = self.other_key if self.signs_with_another_key else self.key
        return jwt.encode({k: v for k, v in claims.items() if v is not None}, key, "RS256", headers={"kid": "one"})


class _Answers(BaseHTTPRequestHandler):
    server: Provider

    def do_GET(self) -> None:
        """The description, the keys, and the page that people go to."""
        provider, path = self.server, urlsplit(self.path).path
        if path == "/.well-known/openid-configuration":
            self._say({"issuer": provider.changed.get("issuer", provider.issuer),
                       "authorization_endpoint": f"{provider.issuer}/authorize",
                       "token_endpoint": f"{provider.issuer}/token", "jwks_uri": f"{provider.issuer}/keys",
                       "padding": "x" * (2_000_000 if provider.floods else 0)})  # fmt: skip
        elif path == "/keys":
            key = json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(provider.key.public_key()))
            self._say({"keys": [{**key, "kid": "one", "use": "sig"}]})
        else:
            self.send_response(302)
            self.send_header("Location", provider.come_back(self.path))
            self.end_headers()

    def do_POST(self) -> None:
        """A code against the word, for the client that it was given to alone."""
        given = parse_qs(self.rfile.read(int(self.headers["Content-Length"])).decode())
        asked = self.server.codes.pop(given["code"][0], None)
        challenge = base64.urlsafe_b64encode(hashlib.sha256(given["code_verifier"][0].encode()).digest())
        known = "Basic " + base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
        good = asked and challenge.rstrip(b"=").decode() == asked["code_challenge"]
        if not good or self.headers["Authorization"] != known:
            self._say({"error": "invalid_grant"}, 400)
        else:
            self._say({"access_token": "x", "token_type": "Bearer", "id_token": self.server.word(asked)})

    def _say(self, body: dict[str, Any], status: int = 200) -> None:
        content = json.dumps(body).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(content)))
        self.end_headers()
        self.wfile.write(content)

    def log_message(self, *_: Any) -> None:
        """Nobody reads along."""


@contextmanager
def openid_provider() -> Iterator[Provider]:
    """One that runs while it is needed."""
    with serving(Provider()) as server:
        yield server
