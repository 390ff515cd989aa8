"""Calls to an end about a document, and which contact of the books a buyer is."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Exchange(WorkspaceOwned):
    """One call to an end about a document: what was sent, what came back.

    It names the document by its reference, for a document that is made anew is another row; what is told to the sales
    side goes by the first of them. Personal data is left out. ``milliseconds`` is how long it took, where that was
    measured.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    external_reference = models.CharField(max_length=250)
    at = models.DateTimeField(auto_now_add=True)
    call = models.CharField(max_length=60)
    sent = models.JSONField(null=True)
    answered = models.JSONField(null=True)
    failure = models.TextField(default="")
    milliseconds = models.PositiveIntegerField(null=True)

    class Meta:
        indexes = [
            models.Index(fields=["connection", "external_reference"], name="exchange_of_document"),
            models.Index(fields=["at"], name="exchange_age"),
        ]


class ContactLink(WorkspaceOwned):
    """Which contact of the books a buyer is. The buyer is a digest, so that nothing personal stands here.

    ``intended_key`` is the idempotency key of the call that ``intended_at`` stands for. ``company`` is whose books
    they were: a connection that was switched to another company starts clean, and this stays as history.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="contact_links")
    buyer = models.CharField(max_length=64)
    books_id = models.CharField(max_length=120, default="", blank=True)
    intended_at = models.DateTimeField(null=True)
    intended_key = models.CharField(max_length=120, default="")
    company = models.CharField(max_length=200, default="", blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "connection", "company", "buyer"], name="contact_link_buyer")
        ]
