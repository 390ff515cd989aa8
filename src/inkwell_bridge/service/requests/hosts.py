"""Hosts of clients under which payment links are given out: nothing else of the service answers there."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseBase


def payment_hosts_middleware(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Answer under such a host with the pages of payment links alone."""
    hosts = frozenset(settings.PAYMENT_HOSTS)

    def middleware(request: HttpRequest) -> HttpResponseBase:
        host = request.get_host().rpartition(":")[0] or request.get_host()
        if host in hosts and not request.path_info.startswith("/pay/"):
            return HttpResponse("There is nothing here.", status=404, content_type="text/plain; charset=utf-8")
        return get_response(request)

    return middleware if hosts else get_response
