"""The short link of a request for payment, and what a person decided of it."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.carriage.models.documents import Crossing
from inkwell_bridge.service.carriage.models.fields import amount_field
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Wish(models.TextChoices):
    """What somebody decided by hand of an invoice's request, whatever the rules say."""

    NONE = "", "by the rules"
    MADE = "made", "made by hand"
    CANCELLED = "cancelled", "cancelled by hand"


class RequestState(models.TextChoices):
    """How a request stands with the buyer."""

    WAITING = "waiting", "not at the provider yet"
    OPEN = "open", "open"
    PART_PAID = "part paid", "paid in part"
    PAID = "paid", "paid"
    CANCELLED = "cancelled", "cancelled"


class PaymentLink(WorkspaceOwned):
    """Where the buyer of an invoice is led to: ``token`` stands in the link, and cannot be guessed.

    The link outlives every page of the provider's. ``opened`` counts how often it was, and nothing else of who did.
    ``state``, ``amount``, ``paid`` (in the invoice's currency) and the provider's name of the request are kept for
    lists, and renewed whenever the invoice or a payment on it was carried (``payment_links.renew``).
    """

    crossing = models.OneToOneField(Crossing, on_delete=models.CASCADE, related_name="payment_link")
    token = models.CharField(max_length=40, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    wish = models.CharField(max_length=10, choices=Wish, default=Wish.NONE, blank=True)
    wished_by = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, related_name="+")
    wished_at = models.DateTimeField(null=True)
    note = models.CharField(max_length=500, default="", blank=True)
    opened = models.PositiveIntegerField(default=0)
    last_opened_at = models.DateTimeField(null=True)
    state = models.CharField(max_length=10, choices=RequestState, default=RequestState.WAITING)
    amount = amount_field()
    paid = amount_field()
    request = models.CharField(max_length=120, default="", blank=True)
    provider_link = models.CharField(max_length=500, default="", blank=True)

    class Meta:
        indexes = [
            models.Index(fields=["workspace", "-id"], name="payment_link_newest"),
            models.Index(fields=["workspace", "state", "-id"], name="payment_link_state"),
        ]
