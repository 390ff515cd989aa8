"""How the ERP says no."""

from __future__ import annotations

from typing import Any

SIGN_IN, NO_SUCH_METHOD, BAD_CALL, REFUSED = -32001, -32601, -32602, -32010


class Refusal(Exception):
    """A call that the ERP will not do."""

    def __init__(self, code: int, message: str, **data: Any) -> None:
        self.answer = {"code": code, "message": message, "data": data}
        super().__init__(message)


def refused(message: str, **data: Any) -> Refusal:
    """A refusal of what was asked for, as against who asked."""
    return Refusal(REFUSED, message, **data)
