"""Guessing passwords is slowed down: after so many failures an account, an address or both together have to wait.

What failed stands in PostgreSQL, so that it counts for all processes; accounts and addresses stand there as digests.
From one address few failures are enough; for an account, from wherever, it takes many, so that somebody who guesses
elsewhere does not keep its owner out.
"""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db.models import Count, Max
from django.utils import timezone
from rest_framework.exceptions import Throttled
from rest_framework.request import Request
from rest_framework.throttling import BaseThrottle

from inkwell_bridge.service.blinding import blind
from inkwell_bridge.service.people.models import SignInFailure

WITHIN = timedelta(minutes=15)
KEPT_FOR = timedelta(days=1)
# How many times as many failures each may have as an account may have from one address.
MAILS = 3
TIMES = {"account from one address": 1, "account": 10, "address": 20}


def check(request: Request, email: str) -> None:
    """Refuse a try where too many failed before it.

    Raises:
        Throttled: with the seconds until the next is looked at.
    """
    names = _names(request, email)
    since = timezone.now() - WITHIN
    rows = SignInFailure.objects.filter(digest__in=names.values(), at__gt=since).values("digest")
    for row in rows.annotate(number=Count("id"), last=Max("at")).order_by():
        what = next(what for what, digest in names.items() if digest == row["digest"])
        if row["number"] >= TIMES[what] * settings.FAILED_SIGN_INS:
            wait = int((row["last"] + WITHIN - timezone.now()).total_seconds()) + 1
            raise Throttled(wait, f"Too many tries to sign in with this {what.partition(' ')[0]} have failed.")


def failed(request: Request, email: str) -> None:
    """Note that a try failed; what is too old to count is taken away with it."""
    now = timezone.now()
    SignInFailure.objects.bulk_create(
        SignInFailure(digest=digest, at=now) for digest in _names(request, email).values()
    )
    SignInFailure.objects.filter(at__lt=now - KEPT_FOR).delete()


def may_mail(email: str) -> bool:
    """Whether another link to choose a password by may be mailed to an address; noted as one more where it may."""
    digest = blind(f"mail:{email}", purpose="sign-in")
    now = timezone.now()
    if SignInFailure.objects.filter(digest=digest, at__gt=now - WITHIN).count() >= MAILS:
        return False
    SignInFailure.objects.create(digest=digest, at=now)
    return True


def address_of(request: Request) -> str:
    """Where a request comes from; of what it was handed on through as much is believed as there are proxies of ours."""
    return BaseThrottle().get_ident(request) or ""


def _names(request: Request, email: str) -> dict[str, str]:
    address = address_of(request)
    told = {"account from one address": f"{email} {address}", "account": email, "address": address}
    return {what: blind(f"{what}:{text}", purpose="sign-in") for what, text in told.items()}
