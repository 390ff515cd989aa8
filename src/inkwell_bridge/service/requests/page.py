"""The page that a payment link leads to: whom the money goes to, the invoice's number, how much, and how it stands.

It shows nothing else, asks for nothing, and knows its visitor by nothing but the link. What it says is asked of the
provider at that moment, and a page there that has run out is made anew: so the link never goes stale.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from decimal import Decimal
from zoneinfo import ZoneInfo

import structlog
from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_safe

from inkwell_bridge.core.books import PaymentRequest, Role
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.shapes import StandingRequest
from inkwell_bridge.service import clock
from inkwell_bridge.service.api.outward import AllWaiting, asks_for_a_buyer
from inkwell_bridge.service.carriage.models import Document, PaymentLink, RequestState, Wish
from inkwell_bridge.service.connections.ends import sales_end
from inkwell_bridge.service.people.brake import address_of
from inkwell_bridge.service.requests import pace
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.requests")
ZERO = Decimal(0)
TEMPLATE, STYLE = "requests/page.html", "requests/page.css"
# What a database takes as text, and may be the end of a link.
_TOKEN = re.compile(r"[A-Za-z0-9_-]{1,40}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What the page says. Units: ``amount`` is what is still to be paid, in ``currency``."""

    heading: str
    text: str
    payee: str = ""
    number: str = ""
    amount: Decimal | None = None
    currency: str = ""
    page: str = ""
    status: int = 200


_NOWHERE = Shown(
    heading="This link leads nowhere", status=404,
    text="Look at the invoice once more: the whole link has to be opened, to its last letter.",
)  # fmt: skip
_NOT_ASKED_FOR = Shown(heading="There is nothing to pay", text="This invoice is not asked for any more.")
_TOO_OFTEN = Shown(heading="Too many tries", status=429, text="Open the link again in a minute.")


# Another method is refused as such; there is nothing here that a browser could be made to do.
@csrf_exempt
@require_safe
def pay(request: HttpRequest, token: str) -> HttpResponse:
    """How an invoice stands, with the way to pay it. Two statements to count, two to look it up, and one call to the
    provider: two where its page has run out."""
    address = address_of(request)  # type: ignore[arg-type]
    if pace.has_guessed(address) or not pace.may_open(address, token):
        return _answer(request, _TOO_OFTEN)
    rows = PaymentLink.objects.select_related("crossing__bridge__source__workspace", "crossing__bridge__company",
                                              "crossing__snapshot")  # fmt: skip
    may_be_one = _TOKEN.fullmatch(token) is not None
    link = rows.filter(token=token, crossing__bridge__removed_at__isnull=True).first() if may_be_one else None
    if link is None:
        return _answer(request, _NOWHERE if pace.may_guess(address) else _TOO_OFTEN)
    PaymentLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, last_opened_at=timezone.now())
    return _answer(request, _shown(link))


def style(request: HttpRequest) -> HttpResponse:
    """How the page looks; under a policy that lets no style stand in the page itself."""
    answer = render(request, STYLE, content_type="text/css; charset=utf-8")
    answer.headers["Cache-Control"] = "max-age=3600"
    return answer


def _shown(link: PaymentLink) -> Shown:
    crossing, source = link.crossing, link.crossing.bridge.source
    about = {"payee": crossing.bridge.company.name, "number": crossing.number, "currency": crossing.currency}
    rows = Document.objects.filter(crossings=crossing, role=Role.PAYMENT_REQUEST).exclude(books_id="")
    document = rows.first()
    # One that could not be read the last time says nothing of that.
    content = crossing.snapshot.content or {}
    withdrawn = content.get("state") == "cancelled" or (link.wish == Wish.CANCELLED and link.state != RequestState.PAID)
    if document is not None and document.planned is not None:
        # What the books said last counts at once, though the provider may not have been told of it yet.
        withdrawn = withdrawn or PaymentRequest.read(document.planned).withdrawn
    if withdrawn or document is None:
        return replace(_NOT_ASKED_FOR, **about)
    standing = None
    try:
        if source.may_be_asked:
            standing = _standing(link, document)
    except (EndError, Unreadable, AllWaiting) as error:
        log.warning("requests.page", workspace=link.workspace_id, link=link.pk, why=str(error))
    if standing is None:
        text = "How this invoice stands cannot be found out just now. Open the link again in some minutes."
        return Shown(heading="Please come back soon", text=text, status=503, **about)
    return _as_it_stands(link, standing, about)


def _as_it_stands(link: PaymentLink, standing: StandingRequest, about: dict[str, str]) -> Shown:
    left = standing.request.amount - standing.paid
    if standing.request.withdrawn:
        return replace(_NOT_ASKED_FOR, **about)
    if left <= ZERO:
        return Shown(heading="Paid", text="This invoice is paid. Thank you.", **about)
    today = clock.now().astimezone(ZoneInfo(link.crossing.bridge.company.time_zone)).date()
    ends_on = standing.request.ends_on
    if ends_on is not None and today > ends_on:
        text = f"This invoice could be paid here until {ends_on:%-d %B %Y}. Ask {about['payee']} how to pay it now."
        return Shown(heading="This can no longer be paid here", text=text, amount=left, **about)  # type: ignore[arg-type]
    text = "Part of this invoice is paid; this is what is left." if standing.paid else "This invoice is open."
    return Shown(heading="Pay this invoice", text=text, amount=left, page=standing.page, **about)  # type: ignore[arg-type]


@asks_for_a_buyer
def _standing(link: PaymentLink, document: Document) -> StandingRequest | None:
    """The request as it stands at the provider, with a page that can be paid on now."""
    end = sales_end(link.crossing.bridge.source)
    found: StandingRequest | None = end.find_request(document.external_reference)  # type: ignore[attr-defined]
    if found is None or found.request.withdrawn or found.paid >= found.request.amount:
        return found
    # Where the provider does not say until when its page can be paid on, it is asked for another each time.
    if found.page_ends_at is None or found.page_ends_at <= clock.now() or not found.page:
        found = end.fresh_page(found.id)  # type: ignore[attr-defined]
    return found


def _answer(request: HttpRequest, shown: Shown) -> HttpResponse:
    answer = render(request, TEMPLATE, {"shown": shown}, status=shown.status)
    answer.headers["Cache-Control"] = "no-store"
    answer.headers["X-Robots-Tag"] = "noindex, nofollow"
    # The link is the right to see the page, and is told to nobody: not to the provider either.
    answer.headers["Referrer-Policy"] = "no-referrer"
    if shown.status in (429, 503):
        answer.headers["Retry-After"] = "60"
    return answer
