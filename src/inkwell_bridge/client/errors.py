"""What a call can end in, each carrying the problem (RFC 9457) that the service answered with.

ApiError
├── Unreachable    no answer
├── NotUnderstood  an answer of another shape than is known here
├── NotSignedIn    401
├── Forbidden      403
├── NotFound       404, 410
├── Conflict       409
│   └── NotConfirmed   what would end has to be confirmed first
└── Invalid        400, 422
"""

from __future__ import annotations

from typing import Any

import httpx
from pydantic import BaseModel, ConfigDict, ValidationError


class ProblemItem(BaseModel):
    """One of several things that are wrong."""

    model_config = ConfigDict(extra="allow")
    detail: str
    hint: str = ""
    pointer: str = ""
    line: int | None = None


class Problem(BaseModel):
    """What happened, why, and what to do."""

    model_config = ConfigDict(extra="allow")
    status: int
    code: str = "error"
    title: str = ""
    detail: str = ""
    hint: str = ""
    errors: list[ProblemItem] = []


class ApiError(Exception):
    """A call did not succeed; ``problem`` says why."""

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        super().__init__(problem.detail or problem.title)


class Unreachable(ApiError):
    """The service did not answer."""


class NotUnderstood(ApiError):
    """The service answered in another shape than this version of the client knows."""


class NotSignedIn(ApiError):
    """There is no token, or it is not valid any more."""


class Forbidden(ApiError):
    """The role does not allow this."""


class NotFound(ApiError):
    """There is no such thing, or one may not see it."""


class Conflict(ApiError):
    """Something stands in the way."""


class NotConfirmed(Conflict):
    """Something would end for good, and nobody has said yet that this is meant."""

    @property
    def what(self) -> str:
        """What would be done."""
        return str((self.problem.model_extra or {}).get("what", self.problem.detail))

    @property
    def ends(self) -> list[str]:
        """What would end, a sentence each."""
        return list((self.problem.model_extra or {}).get("ends", ()))


class Invalid(ApiError):
    """What was sent is not right; ``problem.errors`` names each place."""


_BY_STATUS: dict[int, type[ApiError]] = {
    400: Invalid,
    401: NotSignedIn,
    403: Forbidden,
    404: NotFound,
    410: NotFound,
    409: Conflict,
    422: Invalid,
}

_BY_CODE: dict[str, type[ApiError]] = {"not-confirmed": NotConfirmed}


def error_of(response: httpx.Response) -> ApiError:
    """The error that a response stands for."""
    try:
        body: Any = response.json()
        problem = Problem.model_validate({"status": response.status_code, **body})
    except (ValueError, TypeError):
        problem = Problem(
            status=response.status_code,
            title=response.reason_phrase,
            detail=f"The service answered with status {response.status_code} and no explanation.",
        )
    return _BY_CODE.get(problem.code, _BY_STATUS.get(response.status_code, ApiError))(problem)


def not_understood(address: str, error: ValueError) -> NotUnderstood:
    """The error where an answer came that nobody here can read; its own words go in a log, not to people."""
    found = (
        f"{len(error.errors())} fields of it are not as expected" if isinstance(error, ValidationError) else "no JSON"
    )
    return NotUnderstood(
        Problem(
            status=0,
            code="not-understood",
            title="Not understood",
            detail=f"{address} answered in a shape that this version does not know: {found}.",
            hint="Check that the address is a service's, and of the same version as this command.",
        )
    )


def unreachable(address: str, error: Exception) -> Unreachable:
    """The error where no answer came."""
    return Unreachable(
        Problem(
            status=0,
            code="unreachable",
            title="No answer",
            detail=f"{address} did not answer: {error}",
            hint="Check the address, and that the service is running.",
        )
    )
