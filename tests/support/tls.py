"""A proxy that speaks HTTPS before a service, for tests: as one would be set up in earnest."""

from __future__ import annotations

import datetime
import ssl
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import httpx
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from tests.support.serving import serving
from tests.support.world import HTTP

HOP_BY_HOP = {"connection", "transfer-encoding", "content-length", "server", "date", "keep-alive"}


class _Proxy(BaseHTTPRequestHandler):
    behind: str

    def _pass_on(self) -> None:
        length = int(self.headers.get("Content-Length", 0))
        headers = {name: value for name, value in self.headers.items() if name.lower() not in HOP_BY_HOP}
        # What whoever asks wrote there themselves is taken away, as a proxy should.
        headers["X-Forwarded-Proto"] = "https"
        headers["X-Forwarded-For"] = f"{self.headers.get('X-Forwarded-For', '')}, {self.client_address[0]}".strip(", ")
        content = self.rfile.read(length)
        answer = HTTP.request(self.command, f"{self.behind}{self.path}", headers=headers, content=content)
        self.send_response(answer.status_code)
        for name, value in answer.headers.multi_items():
            if name.lower() not in HOP_BY_HOP | {"content-encoding"}:
                self.send_header(name, value)
        self.send_header("Content-Length", str(len(answer.content)))
        self.end_headers()
        self.wfile.write(answer.content)

    def do_GET(self) -> None:
        """Reading."""
        self._pass_on()

    def do_POST(self) -> None:
        """Changing."""
        self._pass_on()

    def log_message(self, *_: Any) -> None:
        """Nobody reads along."""


def certificate(folder: Path, host: str) -> Path:
    """A certificate for a host, and its key, in one file."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, host)])
    now = datetime.datetime.now(datetime.UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(hours=1))
        .not_valid_after(now + datetime.timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(host)]), critical=False)
        .sign(key, hashes.SHA256())
    )
    file = folder / "proxy.pem"
    file.write_bytes(
        made.public_bytes(serialization.Encoding.PEM)
        + key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    )
    return file


@contextmanager
def https_proxy(behind: str, folder: Path, host: str) -> Iterator[httpx.Client]:
    """A client of ``https://host``, whose proxy stands before the service at ``behind``."""
    file = certificate(folder, host)
    server = ThreadingHTTPServer(("127.0.0.1", 0), type("Proxy", (_Proxy,), {"behind": behind}))
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(file)
    server.socket = context.wrap_socket(server.socket, server_side=True)
    trusting = ssl.create_default_context(cafile=str(file))
    with (
        serving(server),
        httpx.Client(
            base_url=f"https://127.0.0.1:{server.server_address[1]}", verify=trusting, trust_env=False, timeout=30,
            headers={"Host": host}, event_hooks={"request": [lambda request: _name(request, host)]},
        ) as client,
    ):  # fmt: skip
        yield client


def _name(request: httpx.Request, host: str) -> None:
    # The certificate is the host's, whose name leads nowhere here.
    request.extensions["sni_hostname"] = host
