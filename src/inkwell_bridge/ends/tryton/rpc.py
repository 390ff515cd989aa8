"""Tryton's JSON-RPC: a session, warnings that are acknowledged, errors that come with status 200."""

from __future__ import annotations

import base64
import itertools
import re
from collections.abc import Mapping, Sequence
from typing import Any

from inkwell_bridge.ends.directory import ENTRIES
from inkwell_bridge.ends.errors import Away, OutcomeUnknown, Refused, Why
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.sessions import Session
from inkwell_bridge.ends.tryton import typed

Json = Mapping[str, Any]

# Each document asks about its date once or twice; who asks for ever never meant to do it.
MOST_ACKNOWLEDGED = 10
# Warnings that a person would click away without a thought: each only asks whether the date is meant.
ACKNOWLEDGED = (".invoice_date_future", ".invoice_payment_term")
# Tryton names no kind of refusal, only a text; it is asked for in English, and known by these words.
_WORDS: tuple[tuple[re.Pattern[str], Why], ...] = (
    (re.compile(r"not allowed|access rule|permission", re.I), "permission"),
    (
        re.compile(r"to find a period|period .*closed|closed period|period .*locked|fiscal ?year .*closed", re.I),
        "locked",
    ),
    (re.compile(r"does not exist|no longer exists|not found", re.I), "not found"),
)


class TrytonRpc:
    """Calls to one database of a Tryton server; threads may share it."""

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._user, self._password = opening.credentials["user"], opening.credentials["password"]
        self._session = Session(self._sign_in)
        self._numbers = itertools.count(1)
        self.context: dict[str, Any] = {"language": "en"}

    def read(self, method: str, *params: Any, context: Json | None = None) -> Any:
        """Call a method that changes nothing; ``context`` adds to what every call says."""
        return self._call(method, params, context, changes=False)

    def change(self, method: str, *params: Any, context: Json | None = None) -> Any:
        """Call a method that changes something, acknowledging the warnings that only ask for assent."""
        for _ in range(MOST_ACKNOWLEDGED):
            try:
                return self._call(method, params, context, changes=True)
            except _Warned as warned:
                if not warned.name.endswith(ACKNOWLEDGED):
                    raise Refused(str(warned)) from warned
                self._acknowledge(warned.name)
        raise Refused(f"{method} was asked about {MOST_ACKNOWLEDGED} times, however often we said that it is meant")

    def search(
        self, model: str, domain: Sequence[Any], fields: Sequence[str], *, order: Sequence[Any] | None = None
    ) -> list[Any]:
        """Everything in a model that a domain fits, with these fields."""
        return list(self.read(f"model.{model}.search_read", domain, 0, None, order, fields))

    def listed(self, model: str, after: int, fields: Sequence[str]) -> list[Any]:
        """A page of a model by its ids, from behind one on."""
        behind = [["id", ">", after]]
        return list(self.read(f"model.{model}.search_read", behind, 0, ENTRIES, [["id", "ASC"]], fields))

    def _acknowledge(self, name: str) -> None:
        """Say yes to a warning, for this once."""
        self._call("model.res.user.warning.skip", [name, False], None, changes=True)

    def _call(self, method: str, params: Sequence[Any], context: Json | None, *, changes: bool) -> Any:
        whole = [*params, {**self.context, **(context or {})}]
        return self._session.call(lambda session: self._send(method, whole, changes=changes, session=session))

    def _sign_in(self) -> str:
        params = [self._user, {"password": self._password}, "en"]
        answer = self._send("common.db.login", params, changes=False, session="")
        if not isinstance(answer, list) or len(answer) < 2:
            raise Away(f"{self._http.address} answered a sign-in with something else than a session")
        return f"{self._user}:{answer[0]}:{answer[1]}"

    def _send(self, method: str, params: Sequence[Any], *, changes: bool, session: str) -> Any:
        body = typed.written({"id": next(self._numbers), "method": method, "params": params})
        headers = {"Content-Type": "application/json"}
        if session:
            headers["Authorization"] = f"Session {base64.b64encode(session.encode()).decode()}"
        answer, _ = self._http.call("POST", "/", changes=changes, reads=typed.read, content=body, headers=headers)
        if not isinstance(answer, dict) or ("result" not in answer and "error" not in answer):
            message = f"{self._http.address} gave no answer to {method} that Tryton would give"
            raise OutcomeUnknown(message) if changes else Away(message)
        if "error" in answer:
            raise self._failure(method, answer["error"])
        return answer["result"]

    def _failure(self, method: str, error: Any) -> Exception:
        """What an ``error`` in an answer means. Whatever it is, Tryton has undone the whole call."""
        kind, told = (*error, "", "")[:2] if isinstance(error, list) else (error, "")
        if kind == "UserWarning":
            return _Warned(str(told[0]), f"Tryton asks before {method}: {_text(told[1:])}")
        if kind == "UserError":
            text = _text(told)
            return Refused(f"{method} was refused: {text}", why=_why(text))
        if kind == "ConcurrencyException":
            return Refused(f"{method} was refused: it was changed meanwhile", why="changed")
        return Away(f"Tryton itself failed at {method}: {_last_line(kind, told)}")


class _Warned(Exception):
    """Tryton asks whether it is meant."""

    def __init__(self, name: str, message: str) -> None:
        self.name = name
        super().__init__(message)


def _text(told: Any) -> str:
    parts = [str(part) for part in told[:2] if part] if isinstance(told, list) else [str(told)]
    return " ".join(" ".join(parts).split())[:300] or "no reason given"


def _last_line(said: Any, trace: Any) -> str:
    """What failed inside Tryton: its message, else the end of its trace."""
    lines = f"{said or trace or 'no reason given'}".strip().splitlines()
    return lines[-1][:200]


def _why(text: str) -> Why:
    return next((why for words, why in _WORDS if words.search(text)), "document")
