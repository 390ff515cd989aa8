"""Checks whether everything of some days was read, and what was found to be lacking."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.core.completeness import CompletenessResult
from inkwell_bridge.service.asked_work import ACTIVE, AskedWork
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models.fields import amount_field
from inkwell_bridge.service.tenancy import WorkspaceOwned


class CompletenessCheck(AskedWork):
    """One bridge over some days, by its company's clocks; without ``asked_by`` it was asked for by the program.

    Shape: ``result`` is ``core.completeness.CompletenessResult``, there once it has ended, as is ``complete``.
    ``done`` counts the documents that were listed so far.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="completeness_checks")
    first = models.DateField()
    last = models.DateField()
    complete = models.BooleanField(null=True)
    result = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["bridge"], condition=Q(state__in=ACTIVE), name="completeness_check_one_at_a_time"
            )
        ]
        indexes = [
            models.Index(fields=["workspace", "-id"], name="completeness_check_newest"),
            models.Index(fields=["bridge", "-id"], name="completeness_check_of_bridge"),
        ]

    @property
    def found(self) -> CompletenessResult | None:
        """What came of it; nothing before it has ended."""
        return CompletenessResult.read(self.result) if self.result else None


class ListedRow(WorkspaceOwned):
    """A document as the sales side listed it, for as long as its check is worked out; see ``ListedDocument``."""

    check_of = models.ForeignKey(CompletenessCheck, on_delete=models.CASCADE, related_name="listed")
    kind = models.CharField(max_length=30)
    source_id = models.CharField(max_length=120)
    number = models.CharField(max_length=120)
    placed_at = models.DateTimeField()
    changed_at = models.DateTimeField(null=True)
    currency = models.CharField(max_length=3)
    gross = amount_field()

    class Meta:
        # A list may name a document twice; it is one.
        constraints = [models.UniqueConstraint(fields=["check_of", "kind", "source_id"], name="listed_row_once")]


class Lacking(WorkspaceOwned):
    """What the newest check of its day found lacking: a document that is not here, and for which nothing can cross.

    ``reason`` says how that is known (``core.proof.Reason``): it is listed and not handed out, counted and not listed,
    or only a number. ``number`` names it, where it has a name; ``count`` is how many documents it
    is, below zero where fewer are counted than listed. What the same check finds again keeps its row: somebody may have
    accepted it.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="lacking")
    kind = models.CharField(max_length=30)
    reason = models.CharField(max_length=40)
    source_id = models.CharField(max_length=120, default="", blank=True)
    number = models.CharField(max_length=120, default="", blank=True)
    date = models.DateField()
    currency = models.CharField(max_length=3, default="", blank=True)
    count = models.IntegerField(default=1)
    gross = amount_field()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["bridge", "kind", "reason", "source_id", "number", "currency", "date"], name="lacking_once"
            )
        ]
        indexes = [models.Index(fields=["workspace", "date"], name="lacking_of_day")]
