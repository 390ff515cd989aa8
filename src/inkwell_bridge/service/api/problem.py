"""Errors as Problem Details (RFC 9457): what happened, why, what to do, where."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import structlog
from django.conf import settings
from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import DatabaseError, InterfaceError, OperationalError
from django.http import Http404, HttpRequest, JsonResponse
from rest_framework import exceptions
from rest_framework.response import Response

from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.service.refusal import Refusal

MEDIA_TYPE = "application/problem+json"
log = structlog.get_logger("inkwell.api")


class Conflict(exceptions.APIException):
    """Something stands in the way."""

    status_code = 409
    default_code = "conflict"


TITLES = {
    400: "The request is not right",
    401: "Not signed in",
    403: "Not allowed",
    404: "Not found",
    405: "Not possible here",
    406: "No such format",
    409: "Something stands in the way",
    410: "Over",
    413: "Too much was sent",
    414: "The address is too long",
    415: "This format is not read",
    422: "This cannot be used",
    429: "Too many requests",
    500: "Inkwell Bridge failed",
    502: "Another system failed",
    503: "Not just now",
}
# PostgreSQL's own: unique and foreign keys that another call was faster with, and rows that are kept as written.
_AT_ONCE = {"23503", "23505", "P0001"}
_HINTS = {
    401: "Sign in, or send a token as Authorization: Bearer.",
    403: "Ask an owner of the workspace for the role.",
    404: "Check the name; what you may not see is not shown either.",
}


def answer(error: Exception, context: Mapping[str, Any]) -> Response | None:
    """DRF's exception handler."""
    if isinstance(error, Http404):
        error = exceptions.NotFound("There is no such thing here.")
    elif isinstance(error, PermissionDenied):
        error = exceptions.PermissionDenied()
    if isinstance(error, RulebookInvalid):
        return _rulebook(error, context)
    if isinstance(error, Refusal):
        body = _body(error.status, error.code, str(error), error.hint, context) | error.members()
        return Response(body, status=error.status, content_type=MEDIA_TYPE)
    if isinstance(error, exceptions.APIException):
        return _theirs(error, context)
    return _of_database(error, context)


def _of_database(error: Exception, context: Mapping[str, Any]) -> Response | None:
    """What the database would not do. Its own text holds values: answered and logged is what kind of error it was."""
    if not isinstance(error, DatabaseError | InterfaceError):
        return None
    log.warning("request.refused-by-database", error=type(error).__name__, state=_state_of(error))
    if not isinstance(error, OperationalError) and _state_of(error) in _AT_ONCE:
        text = "Somebody else changed the same at this moment."
        body = _body(409, "changed-meanwhile", text, "Look at what there is now, and try again.", context)
        return Response(body, status=409, content_type=MEDIA_TYPE)
    if isinstance(error, OperationalError | InterfaceError):
        text = "The database does not answer just now."
        body = _body(503, "database-away", text, "Try again in some seconds.", context)
        return Response(body, status=503, content_type=MEDIA_TYPE, headers={"Retry-After": "5"})
    return None


def _state_of(error: Exception) -> str:
    return str(getattr(error.__cause__, "sqlstate", "") or "")


def _rulebook(error: RulebookInvalid, context: Mapping[str, Any]) -> Response:
    hint = "Correct the lines named and send the rulebook again."
    body = _body(422, "rulebook-invalid", str(error).splitlines()[0], hint, context)
    body["errors"] = [
        {"detail": finding.text, "hint": finding.hint, "code": finding.id, "line": finding.line, "pointer": finding.at}
        for finding in error.findings
    ]
    return Response(body, status=422, content_type=MEDIA_TYPE)


def _theirs(error: exceptions.APIException, context: Mapping[str, Any]) -> Response:
    status = error.status_code
    headers = {}
    if getattr(error, "wait", None):
        headers["Retry-After"] = str(int(error.wait))  # type: ignore[attr-defined]
    if getattr(error, "auth_header", None):
        headers["WWW-Authenticate"] = error.auth_header  # type: ignore[attr-defined]
    if isinstance(error, exceptions.ValidationError):
        errors = _field_errors(error.detail)
        body = _body(400, "invalid", errors[0]["detail"], "Correct the fields named and send it again.", context)
        body["errors"] = errors
    else:
        codes = error.get_codes()
        code = codes if isinstance(codes, str) else "error"
        body = _body(status, code.replace("_", "-"), str(error.detail), _HINTS.get(status, ""), context)
    return Response(body, status=status, headers=headers, content_type=MEDIA_TYPE)


def _body(status: int, code: str, detail: str, hint: str, context: Mapping[str, Any]) -> dict[str, Any]:
    request = context.get("request")
    return {
        "type": f"/problems/{code}",
        "title": TITLES.get(status, "Error"),
        "status": status,
        "code": code,
        "detail": detail,
        "hint": hint,
        "instance": request.path if request else "",
    }


def _field_errors(detail: Any, pointer: str = "") -> list[dict[str, Any]]:
    if isinstance(detail, Mapping):
        return [
            found
            for name, below in detail.items()
            for found in _field_errors(below, pointer if name == "non_field_errors" else f"{pointer}/{name}")
        ]
    if isinstance(detail, list) and not all(isinstance(item, str) for item in detail):
        return [found for place, below in enumerate(detail) for found in _field_errors(below, f"{pointer}/{place}")]
    texts = detail if isinstance(detail, list) else [detail]
    return [{"detail": f"{pointer.strip('/')}: {text}" if pointer else str(text), "pointer": pointer} for text in texts]


def server_error(request: HttpRequest) -> JsonResponse:
    """What a failure of our own answers; its trace is in the log, never in the answer."""
    log.error("request.failed", path=request.path)
    body = _body(
        500,
        "failed",
        "Inkwell Bridge failed on this request, and cannot say whether a part of it was done.",
        "Look before you try again. The service's log names the failure.",
        {"request": request},
    )
    return JsonResponse(body, status=500, content_type=MEDIA_TYPE)


def bad_request(request: HttpRequest, exception: Exception) -> JsonResponse:
    """What Django itself refuses: too much sent, or a request that is not right."""
    large = isinstance(exception, RequestDataTooBig)
    status, code = (413, "too-large") if large else (400, "bad-request")
    detail = f"At most {settings.DATA_UPLOAD_MAX_MEMORY_SIZE:,} bytes are read." if large else "This cannot be read."
    body = _body(
        status, code, detail, "Send less, or in the form that the API's reference shows.", {"request": request}
    )
    return JsonResponse(body, status=status, content_type=MEDIA_TYPE)


def address_too_long(request: HttpRequest, longest: int) -> JsonResponse:
    """What a call answers whose address with its filters is longer than any has to be."""
    detail = f"An address with its filters may have {longest:,} characters."
    body = _body(414, "address-too-long", detail, "Ask with fewer or shorter filters.", {"request": request})
    body["instance"] = request.path[:200]
    return JsonResponse(body, status=414, content_type=MEDIA_TYPE)


def not_found(request: HttpRequest, exception: Exception) -> JsonResponse:
    """What an address that leads nowhere answers."""
    body = _body(404, "not-found", f"Nothing is served at {request.path[:200]}.", _HINTS[404], {"request": request})
    return JsonResponse(body, status=404, content_type=MEDIA_TYPE)
