"""Serving the console: one page for every address of its own, under a strict content policy."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase

_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
# The page that shows the API's description sets styles from its script.
_REFERENCE_POLICY = _POLICY.replace("style-src 'self'", "style-src 'self' 'unsafe-inline'")

_UNBUILT = """<!doctype html><html lang="en-GB"><meta charset="utf-8"><title>Inkwell Bridge</title>
<h1>The console is not built</h1><p>The service runs, but its pages were not built.
Run <code>./inkwell build</code> and load this page again.</p></html>"""


def policy_middleware(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Send the content policy with every answer, and let nothing of people or money be kept on the way."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        reference = request.path.startswith("/api/v1/reference")
        response.headers.setdefault("Content-Security-Policy", _REFERENCE_POLICY if reference else _POLICY)
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    return middleware


def page(request: HttpRequest) -> HttpResponseBase:
    """The console's one page; its own script reads the address."""
    index = settings.CONSOLE / "index.html"
    if not index.is_file():
        return HttpResponse(_UNBUILT, status=503)
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response.headers["Cache-Control"] = "no-cache"
    return response
