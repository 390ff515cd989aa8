"""OAuth 2.0 (RFC 6749) towards an end: getting tokens, renewing them in time, and calling with them.

The grant is what the connection's credentials say: ``client credentials``, where the application's own key is
all it takes, or ``consent page``, where somebody signs in and the token that came of it is renewed from then on.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

import httpx

from inkwell_bridge.ends.errors import Away, Refused
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.tokens import Token

CLIENT_CREDENTIALS, CONSENT_PAGE = "client credentials", "consent page"
GRANTS = (CLIENT_CREDENTIALS, CONSENT_PAGE)
# What an end that does not say how long a token lasts (it should, RFC 6749 section 5.1) is taken to mean.
USUAL_SECONDS = 3600.0


class OAuth:
    """The application's way in at one end."""

    def __init__(self, opening: Opening, http: Http, *, page: str, tokens: str, scopes: tuple[str, ...]) -> None:
        self._http, self._tokens = http, opening.tokens
        self._client = opening.credentials["client_id"]
        self._auth = httpx.BasicAuth(self._client, opening.credentials["client_secret"])
        self._by_consent = opening.credentials.get("grant", CLIENT_CREDENTIALS) == CONSENT_PAGE
        self._page_path, self._tokens_path = page, tokens
        self._scope = " ".join(scopes)

    def page(self, *, state: str, challenge: str, return_to: str) -> str:
        """See ``Consent.page``."""
        query = {"response_type": "code", "client_id": self._client, "redirect_uri": return_to, "scope": self._scope,
                 "state": state, "code_challenge": challenge, "code_challenge_method": "S256"}  # fmt: skip
        return f"{self._http.address}{self._page_path}?{urlencode(query)}"

    def redeem(self, *, code: str, verifier: str, return_to: str) -> Token:
        """See ``Consent.redeem``."""
        return self._asked({"grant_type": "authorization_code", "code": code, "redirect_uri": return_to,
                            "code_verifier": verifier})  # fmt: skip

    def call(self, method: str, path: str, *, changes: bool, **request: Any) -> tuple[Any, httpx.Response]:
        """Call with a token that lasts; one that is refused all the same did nothing, so it goes out once more.

        Raises:
            Refused: with ``why`` sign-in, where nobody has signed in, or that is over; else see ``Http.call``.
        """
        token = self._lasting()
        try:
            return self._sent(token, method, path, changes=changes, **request)
        except Refused as refused:
            if refused.why != "credentials":
                raise
        return self._sent(self._tokens.renewed(token, self._another), method, path, changes=changes, **request)

    def _sent(self, token: Token, method: str, path: str, **request: Any) -> tuple[Any, httpx.Response]:
        return self._http.call(method, path, headers={"Authorization": f"Bearer {token.access}"}, **request)

    def _lasting(self) -> Token:
        token = self._tokens.current()
        return self._tokens.renewed(token, self._another) if token is None or token.is_due else token

    def _another(self, token: Token | None) -> Token:
        if not self._by_consent:
            return self._asked({"grant_type": "client_credentials", "scope": self._scope})
        if token is None or not token.refresh:
            raise Refused(f"Nobody has signed in at {self._http.address} yet, or that sign-in cannot be renewed. "
                          "Sign in through its consent page.", why="sign-in")  # fmt: skip
        fresh = self._asked({"grant_type": "refresh_token", "refresh_token": token.refresh})
        # An end that gives no new one means the old one to be used again (RFC 6749, section 6).
        return fresh if fresh.refresh else Token(access=fresh.access, ends_at=fresh.ends_at, renew_at=fresh.renew_at,
                                                 refresh=token.refresh)  # fmt: skip

    def _asked(self, form: dict[str, str]) -> Token:
        try:
            # Asking again gives another token and does no harm, so a missing answer is no unknown outcome.
            said, _ = self._http.call("POST", self._tokens_path, changes=False, data=form, auth=self._auth)
        except Refused as refused:
            if refused.why == "document" and form["grant_type"] != "client_credentials":
                message = f"The sign-in at {self._http.address} is over ({refused}). Sign in through its consent page."
                raise Refused(message, why="sign-in") from refused
            raise
        try:
            return Token.lasting(
                float(said.get("expires_in", USUAL_SECONDS)),
                access=_text(said["access_token"]),
                refresh=_text(said.get("refresh_token", "")),
            )
        except (AttributeError, KeyError, TypeError, ValueError) as error:
            raise Away(f"{self._http.address} answered without a token") from error


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise TypeError("expected text")
    return value
