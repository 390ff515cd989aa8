"""Calls about one's own account: password, second factor, browsers."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.client.models import BrowserSession, OfferedSecret, SecondFactor
from inkwell_bridge.client.transport import Transport


class AccountCalls:
    """The account of the token's person; a token that is limited to a role or a workspace does not reach it."""

    def __init__(self, transport: Transport) -> None:
        self._transport = transport

    def change_password(
        self, *, password: str, new_password: str, code: str = "", withdraw_tokens: bool = False
    ) -> None:
        """Change the password; every browser has to sign in anew, tokens stay unless they are withdrawn with it."""
        body = {"password": password, "new_password": new_password, "code": code, "withdraw_tokens": withdraw_tokens}
        self._transport.send("POST", "/password", body=body)

    def browsers(self) -> Iterator[BrowserSession]:
        """The browsers one is signed in with."""
        return self._transport.pages(BrowserSession, "/sessions")

    def end_browser(self, number: int) -> None:
        """End a browser's session."""
        self._transport.send("DELETE", f"/sessions/{number}")

    def end_browsers(self) -> None:
        """End them all."""
        self._transport.send("DELETE", "/sessions")

    def second_factor(self) -> SecondFactor:
        """Whether signing in takes a code, and how many recovery codes are left."""
        return self._transport.one(SecondFactor, "GET", "/second-factor")

    def begin_second_factor(self, *, password: str) -> OfferedSecret:
        """A secret to put into an authenticator app; it counts once it was confirmed."""
        return self._transport.one(OfferedSecret, "POST", "/second-factor", body={"password": password})

    def confirm_second_factor(self, code: str) -> list[str]:
        """Turn it on with a code of the app; answers the recovery codes, which are shown this once."""
        return list(self._transport.send("POST", "/second-factor/confirm", body={"code": code})["recovery_codes"])

    def renew_recovery_codes(self, *, password: str, code: str) -> list[str]:
        """New recovery codes in place of those there are."""
        body = {"password": password, "code": code}
        return list(self._transport.send("POST", "/second-factor/recovery-codes", body=body)["recovery_codes"])

    def turn_off_second_factor(self, *, password: str, code: str) -> None:
        """Do without from now on."""
        self._transport.send("POST", "/second-factor/turn-off", body={"password": password, "code": code})
