"""Calls, pages and problems."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any, TypeVar

import httpx
from pydantic import BaseModel, ValidationError

from inkwell_bridge.client.errors import error_of, not_understood, unreachable

KEEP_ALIVE_SECONDS = 1.0
Model = TypeVar("Model", bound=BaseModel)


class Transport:
    """One service, spoken to under one token. ``transport`` can be put in its place in tests."""

    def __init__(
        self,
        address: str,
        *,
        token: str | None = None,
        timeout_seconds: float = 60.0,
        transport: httpx.BaseTransport | None = None,
    ) -> None:
        self.address = address.rstrip("/")
        self.token_ends_at: datetime | None = None
        headers = {"Accept": "application/json"} | ({"Authorization": f"Bearer {token}"} if token else {})
        # Loading certificates takes a while, and a plain address has none to check. A connection is given up before
        # a server would close it, so that no call is sent into a closing one.
        self._http = httpx.Client(
            base_url=f"{self.address}/api/v1",
            headers=headers,
            timeout=timeout_seconds,
            transport=transport,
            trust_env=False,
            verify=self.address.startswith("https:"),
            limits=httpx.Limits(keepalive_expiry=KEEP_ALIVE_SECONDS),
        )

    def close(self) -> None:
        """Close what is open."""
        self._http.close()

    def send(
        self,
        method: str,
        path: str,
        *,
        query: Mapping[str, Any] | None = None,
        body: Any = None,
        form: Mapping[str, str] | None = None,
        file: tuple[str, str, bytes] | None = None,
    ) -> Any:
        """One call; answers its JSON, or nothing where there is none.

        A ``form``, alone or with a ``file`` (its field, its name, its content), goes in place of ``body``.

        Raises:
            ApiError: with the problem that the service answered with.
        """
        sent: dict[str, Any] = {"json": body}
        if form is not None or file is not None:
            sent = {"data": dict(form or {}), "files": {file[0]: file[1:]} if file else None}
        response = self._good(method, path, query, **sent)
        try:
            return response.json() if response.content else None
        except ValueError as error:
            raise not_understood(self.address, error) from error

    def content(self, path: str, *, query: Mapping[str, Any] | None = None) -> bytes:
        """A file that the service hands out.

        Raises:
            ApiError: see ``send``.
        """
        return self._good("GET", path, query).content

    def chunks(self, path: str, *, query: Mapping[str, Any] | None = None) -> Iterator[bytes]:
        """A file that the service hands out, piece by piece as it comes, for one that may be large.

        Raises:
            ApiError: see ``send``.
        """
        try:
            with self._http.stream("GET", path, params=_given(query)) as response:
                if response.status_code >= 400:
                    response.read()
                    raise error_of(response)
                yield from response.iter_bytes()
        except httpx.HTTPError as error:
            raise unreachable(self.address, error) from error

    def _good(self, method: str, path: str, query: Mapping[str, Any] | None, **sent: Any) -> httpx.Response:
        try:
            response = self._answered(method, path, params=_given(query), **sent)
        except httpx.HTTPError as error:
            raise unreachable(self.address, error) from error
        if ends_at := response.headers.get("Inkwell-Token-Ends"):
            self.token_ends_at = datetime.fromisoformat(ends_at)
        if response.status_code >= 400:
            raise error_of(response)
        return response

    def _answered(self, method: str, path: str, **request: Any) -> httpx.Response:
        """Send a call; reading is tried once more where the server closed the connection just then."""
        try:
            return self._http.request(method, path, **request)
        except httpx.RemoteProtocolError:
            # What changes something may have been done before the connection broke: only its sender can know.
            if method != "GET":
                raise
            return self._http.request(method, path, **request)

    def one(self, model: type[Model], method: str, path: str, **options: Any) -> Model:
        """One call that answers one thing."""
        return self.read(model, self.send(method, path, **options))

    def several(self, model: type[Model], method: str, path: str, **options: Any) -> list[Model]:
        """One call that answers a list of things."""
        return [self.read(model, item) for item in self.send(method, path, **options)]

    def read(self, model: type[Model], said: Any) -> Model:
        """What an answer says, in the client's own shape.

        Raises:
            NotUnderstood: it is of another shape.
        """
        try:
            return model.model_validate(said)
        except ValidationError as error:
            raise not_understood(self.address, error) from error

    def pages(self, model: type[Model], path: str, query: Mapping[str, Any] | None = None) -> Iterator[Model]:
        """Everything in a list, page after page, as it is asked for."""
        page = self.send("GET", path, query=query)
        while True:
            yield from (self.read(model, item) for item in page["items"])
            if not page["next"]:
                return
            # The service's own link, which holds the place after the last row: rows that come meanwhile move nothing.
            page = self.send("GET", page["next"])


def _given(query: Mapping[str, Any] | None) -> dict[str, Any] | None:
    # A filter that was left out is none; an empty one would narrow the list to nothing.
    return {name: value for name, value in (query or {}).items() if value not in (None, "", [])} or None
