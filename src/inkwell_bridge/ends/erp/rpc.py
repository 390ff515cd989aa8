"""JSON-RPC 2.0 with a session that is opened when needed and opened again when it has ended."""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from typing import Any

from inkwell_bridge.ends.errors import Away, EndError, OutcomeUnknown, Refused, Why
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.sessions import Session

NOT_SIGNED_IN = -32001


class Rpc:
    """Calls to one ERP; threads may share it."""

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._credentials = opening.credentials
        self._session = Session(self._open)
        self._numbers = itertools.count(1)

    def read(self, method: str, **params: Any) -> Any:
        """Call a method that changes nothing."""
        return self._signed_in(method, params, changes=False)

    def change(self, method: str, **params: Any) -> Any:
        """Call a method that changes something."""
        return self._signed_in(method, params, changes=True)

    def _signed_in(self, method: str, params: Mapping[str, Any], *, changes: bool) -> Any:
        return self._session.call(lambda session: self._send(method, params, changes=changes, session=session))

    def _open(self) -> str:
        answer = self._send("session.open", self._credentials, changes=False, session="")
        if not isinstance(answer, dict) or not isinstance(answer.get("session"), str):
            raise Away(f"{self._http.address} answered a sign-in with something else than a session")
        return str(answer["session"])

    def _send(self, method: str, params: Mapping[str, Any], *, changes: bool, session: str) -> Any:
        body = {"jsonrpc": "2.0", "id": next(self._numbers), "method": method, "params": dict(params)}
        headers = {"Authorization": f"Session {session}"} if session else {}
        answer, _ = self._http.call("POST", "/rpc", changes=changes, json=body, headers=headers)
        if not isinstance(answer, dict) or ("result" not in answer and "error" not in answer):
            message = f"{self._http.address} gave no answer to {method} that JSON-RPC knows"
            raise OutcomeUnknown(message) if changes else EndError(message)
        if "error" in answer:
            raise self._refusal(method, answer["error"])
        return answer["result"]

    def _refusal(self, method: str, error: Any) -> Refused:
        error = error if isinstance(error, dict) else {"message": error}
        message = f"{method} was refused: {str(error.get('message', 'no reason given'))[:300]}"
        if error.get("code") == NOT_SIGNED_IN:
            return Refused(message, why="credentials")
        data = error.get("data")
        return Refused(message, why=_why(data if isinstance(data, dict) else {}))


def _why(data: Mapping[str, Any]) -> Why:
    """What the refusal is about, by what the ERP adds to it."""
    if data.get("permission"):
        return "permission"
    if data.get("locked_until"):
        return "locked"
    return "not found" if data.get("missing") else "document"
