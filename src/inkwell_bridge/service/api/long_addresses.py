"""Refusing addresses that are too long, before anything of them is read."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

from inkwell_bridge.service.api.problem import address_too_long

# The server's own limit lies above it (``--limit-request-line``), so that whoever goes beyond this one is told as a
# problem what is wrong, and not with a page of HTML.
LONGEST_ADDRESS = 4_000


def long_addresses_middleware(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Let no address through that is longer than any filter needs."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        if len(request.get_full_path()) > LONGEST_ADDRESS:
            return address_too_long(request, LONGEST_ADDRESS)
        return get_response(request)

    return middleware
