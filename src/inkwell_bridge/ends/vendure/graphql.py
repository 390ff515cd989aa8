"""GraphQL over HTTP, as Vendure's admin interface speaks it: a session, errors and refusals with status 200."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.ends.errors import Away, EndError, OutcomeUnknown, Refused, Why
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.reading import read_source_json
from inkwell_bridge.ends.sessions import Session

SESSION_HEADER = "vendure-auth-token"
CHANNEL_HEADER = "vendure-token"
_SIGN_IN = """mutation SignIn($user: String!, $password: String!) {
  login(username: $user, password: $password) { __typename ... on ErrorResult { errorCode message } }
}"""
_WHY: dict[str, Why] = {"FORBIDDEN": "permission", "UNAUTHORIZED": "credentials", "ENTITY_NOT_FOUND": "not found",
                        "CHANNEL_NOT_FOUND": "credentials"}  # fmt: skip


class GraphQL:
    """Calls to one Vendure server; threads may share it."""

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._credentials = {name: opening.credentials[name] for name in ("user", "password")}
        channel = opening.credentials.get("channel", "")
        self._headers = {CHANNEL_HEADER: channel} if channel else {}
        # A session that has ended and a right that is missing are told in the same words.
        self._session = Session(self._sign_in, ended="permission")

    def read(self, query: str, **variables: Any) -> Any:
        """Ask for something; answers the members of ``data``."""
        return self._signed_in(query, variables, changes=False)

    def change(self, mutation: str, **variables: Any) -> Any:
        """Change something; answers the one thing that came back.

        Raises:
            Refused: also where the answer is one of Vendure's typed error results.
        """
        (answer,) = self._signed_in(mutation, variables, changes=True).values()
        if isinstance(answer, Mapping) and answer.get("errorCode"):
            raise Refused(
                f"{_name_of(mutation)} was refused: {str(answer.get('message') or answer['errorCode'])[:300]}"
            )
        return answer

    def _signed_in(self, query: str, variables: Mapping[str, Any], *, changes: bool) -> Any:
        return self._session.call(lambda session: self._post(query, variables, changes=changes, session=session)[0])

    def _sign_in(self) -> str:
        data, session = self._post(_SIGN_IN, self._credentials, changes=False, session="")
        answer = data.get("login") or {}
        if answer.get("errorCode"):
            raise Refused(f"{self._http.address} refused: {answer.get('message')}", why="credentials")
        if not session:
            raise Away(f"{self._http.address} opened no session")
        return session

    def _post(
        self, query: str, variables: Mapping[str, Any], *, changes: bool, session: str
    ) -> tuple[dict[str, Any], str]:
        body = {"query": query, "variables": dict(variables), "operationName": _name_of(query)}
        headers = {**self._headers, **({"Authorization": f"Bearer {session}"} if session else {})}
        answer, response = self._http.call(
            "POST", "", changes=changes, reads=read_source_json, json=body, headers=headers
        )
        if not isinstance(answer, dict) or not ("data" in answer or "errors" in answer):
            raise _unanswered(changes, f"{self._http.address} gave no answer that GraphQL knows")
        if answer.get("errors"):
            raise self._failure(_name_of(query), answer["errors"], changes)
        if not isinstance(answer["data"], dict):
            raise _unanswered(changes, f"{self._http.address} answered {_name_of(query)} without data")
        return answer["data"], response.headers.get(SESSION_HEADER, "")

    def _failure(self, name: str, errors: Any, changes: bool) -> EndError:
        first = errors[0] if isinstance(errors, list) and errors and isinstance(errors[0], Mapping) else {}
        code = str((first.get("extensions") or {}).get("code", ""))
        message = f"{name} was refused: {str(first.get('message', 'no reason given'))[:300]}"
        if code in _WHY:
            return Refused(message, why=_WHY[code])
        if code in {"BAD_USER_INPUT", "USER_INPUT_ERROR", "GRAPHQL_VALIDATION_FAILED"}:
            return Refused(message)
        return _unanswered(changes, f"Vendure itself failed at {name}: {str(first.get('message', ''))[:200]}")


def _unanswered(changes: bool, message: str) -> EndError:
    return OutcomeUnknown(message) if changes else Away(message)


def _name_of(query: str) -> str:
    """The operation's name, by which a log or a stand-in tells one call from another."""
    return query.split("(", maxsplit=1)[0].split("{", maxsplit=1)[0].split()[1]
