"""A provider's requests for payment in our words and back, and what came in on them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.core.books import PaymentRequest
from inkwell_bridge.core.commerce import Tender
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.money import digits
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.minor_units import Minor
from inkwell_bridge.ends.pages import page_at
from inkwell_bridge.ends.shapes import StandingRequest

_TENDERS = {"card": Tender.CARD, "on file": Tender.CARD, "bank": Tender.BANK_TRANSFER}


def asked(request: PaymentRequest) -> dict[str, Any]:
    """A request as the provider makes it."""
    return {
        "ref": request.external_reference,
        "bill": request.invoice_number,
        "bill_id": request.invoice_id,
        "says": request.text,
        "money": request.currency,
        "who": request.buyer,
        "from_file": request.on_file,
        "made_for": request.date.isoformat(),
        **changed(request),
    }


def changed(request: PaymentRequest) -> dict[str, Any]:
    """What may become otherwise of one that stands there."""
    return {
        "minor": int(request.amount.scaleb(digits(request.currency))),
        "closes": request.ends_on.isoformat() if request.ends_on else None,
        "dropped": request.withdrawn,
    }


def standing(said: Any, address: str) -> StandingRequest:
    """A request as it stands at the provider at ``address``.

    Raises:
        Misstated: it is none.
    """
    try:
        minor = Minor(said["money"])
        request = {
            "external_reference": said["ref"],
            "date": said["made_for"],
            "invoice_id": said["bill_id"],
            "invoice_number": said["bill"],
            "text": said["says"],
            "currency": said["money"],
            "amount": minor(said["minor"]),
            "buyer": said["who"],
            "on_file": said["from_file"],
            "ends_on": said["closes"],
            "withdrawn": said["dropped"],
        }
        return StandingRequest.read({
            "id": said["request"], "number": said["request"], "request": request, "paid": minor(said["came_in"]),
            "page": page_at(address, said["page"]), "page_ends_at": said["page_until"],
            "link": page_at(address, said.get("screen")),
        })  # fmt: skip
    except (DocumentInvalid, KeyError, TypeError, ValueError, AttributeError) as error:
        raise Misstated(f"the payment provider's request lacks or misstates {error}") from error


def payment_of(said: Mapping[str, Any]) -> dict[str, Any]:
    """What came in, as ``RequestPayment`` reads it."""
    return {
        "id": said["taking"],
        "number": said["taking"],
        "transaction": said["taking"],
        "request": said["ref"],
        "invoice_id": said["bill_id"],
        "invoice_number": said["bill"],
        "method": said["how"],
        "tender": str(_TENDERS.get(said["how"], Tender.OTHER)),
        "currency": said["money"],
        "amount": Minor(said["money"])(said["minor"]),
        "paid_at": said["when"],
        "recorded_at": said["landed"],
        "changed_at": said["altered"],
    }
