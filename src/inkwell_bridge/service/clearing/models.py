"""Proofs of accounts of money, and what the books told of such an account while one is worked out."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.asked_work import ACTIVE, AskedWork
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.tenancy import WorkspaceOwned


class ClearingProof(AskedWork):
    """An account of the books over some days, held against what was posted from here.

    Shape: ``result`` is ``core.clearing.AccountProof`` with the items that differ and what stands there; it is there
    once it has ended, as is ``proves``: whether both sides are the same, item by item. ``done`` counts the entries
    that were read.
    """

    books = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="clearing_proofs")
    account = models.CharField(max_length=120)
    first = models.DateField()
    last = models.DateField()
    proves = models.BooleanField(null=True)
    result = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["books", "account"], condition=Q(state__in=ACTIVE), name="clearing_proof_one_at_a_time"
            )
        ]
        indexes = [
            models.Index(fields=["workspace", "-id"], name="clearing_proof_newest"),
            models.Index(fields=["books", "account", "-id"], name="clearing_proof_of_account"),
        ]


class ReadEntry(WorkspaceOwned):
    """An entry of the account as the books told it, for as long as its proof is worked out; see ``AccountEntry``."""

    proof = models.ForeignKey(ClearingProof, on_delete=models.CASCADE, related_name="entries")
    family = models.CharField(max_length=120)
    books_id = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    date = models.DateField()
    reference = models.CharField(max_length=250)
    text = models.CharField(max_length=200)
    amount = models.DecimalField(max_digits=20, decimal_places=4)

    class Meta:
        indexes = [models.Index(fields=["proof", "reference"], name="read_entry_reference")]
