"""Short links of requests for payment: made once for each, with a token that cannot be guessed."""

from __future__ import annotations

import secrets
from collections.abc import Sequence

from django.conf import settings
from django.db import connection

from inkwell_bridge.core.rulebook.requests import RequestRules
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing, PaymentLink

# 128 bits: a million links, and a million guesses a second, find one in no time that matters to anybody.
TOKEN_BYTES = 16


def new_token() -> str:
    """Twenty-two letters and digits that nobody guesses."""
    return secrets.token_urlsafe(TOKEN_BYTES)


def links_of(crossings: Sequence[Crossing]) -> dict[int, PaymentLink]:
    """Those that there are, by the crossing of the invoice; one statement."""
    rows = PaymentLink.objects.filter(crossing__in=[one.pk for one in crossings])
    return {row.crossing_id: row for row in rows}


def made_for(crossings: Sequence[Crossing]) -> dict[int, PaymentLink]:
    """One for each of these, made where there is none; two statements. What somebody else made meanwhile counts."""
    PaymentLink.objects.bulk_create(
        [PaymentLink(workspace_id=one.workspace_id, crossing=one, token=new_token()) for one in crossings],
        ignore_conflicts=True,
    )
    return links_of(crossings)


def renew(bridge: Bridge, invoices: Sequence[str]) -> None:
    """Let the links of these invoices say how their requests stand by now; one statement.

    What was paid is what the provider told, posted or not; a request that nothing more is open on is paid.
    """
    with connection.cursor() as cursor:
        cursor.execute(_RENEW, {"bridge": bridge.pk, "invoices": list(invoices)})


_RENEW = """
    UPDATE carriage_paymentlink AS link
    SET amount = said.amount, paid = said.paid, request = said.request, provider_link = said.provider_link,
        state = CASE
            WHEN said.withdrawn OR (said.amount IS NULL AND link.wish = 'cancelled') THEN 'cancelled'
            WHEN said.amount IS NULL THEN 'waiting'
            WHEN said.paid >= said.amount THEN 'paid'
            WHEN said.paid > 0 THEN 'part paid'
            ELSE 'open'
        END
    FROM (
        SELECT invoice.id AS crossing, asked.amount, COALESCE(asked.withdrawn, false) AS withdrawn,
               COALESCE(asked.request, '') AS request, COALESCE(asked.link, '') AS provider_link,
               COALESCE(came.paid, 0) AS paid
        FROM carriage_crossing AS invoice
        LEFT JOIN LATERAL (
            SELECT (document.planned ->> 'amount')::numeric AS amount,
                   (document.planned ->> 'withdrawn')::boolean AS withdrawn,
                   document.books_number AS request, document.link
            FROM carriage_documentsource AS share JOIN carriage_document AS document ON document.id = share.document_id
            WHERE share.crossing_id = invoice.id AND document.books_id <> ''
            ORDER BY document.id DESC LIMIT 1
        ) AS asked ON true
        LEFT JOIN LATERAL (
            SELECT sum(payment.gross) AS paid FROM carriage_crossing AS payment
            WHERE payment.bridge_id = invoice.bridge_id AND payment.kind = 'request_payments'
              AND payment.parent_source_id = invoice.source_id
        ) AS came ON true
        WHERE invoice.bridge_id = %(bridge)s AND invoice.kind = 'requests' AND invoice.source_id = ANY(%(invoices)s)
    ) AS said
    WHERE link.crossing_id = said.crossing
"""


def address_of(link: PaymentLink, rules: RequestRules | None) -> str:
    """Where the buyer is sent: under the client's own host where the rules name one, else under the service's own."""
    begins = (rules.address if rules else "") or settings.PUBLIC_ADDRESS
    return f"{begins.rstrip('/')}/pay/{link.token}"
