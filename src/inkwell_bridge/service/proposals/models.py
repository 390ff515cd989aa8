"""Proposals of rules, and the examples that each was learnt from."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.asked_work import ACTIVE, AskedWork
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Proposal(AskedWork):
    """Rules learnt from the orders of a period and what the books hold for them; nothing is written at either end.

    Shape: ``least`` is how many examples a rule beside the usual one must have. ``result`` is what was learnt: the text
    of the rules, each rule with its examples, the orders that it does not explain; there once it has ended.
    ``unread`` counts the documents of the books that could not be understood.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="proposals")
    first = models.DateField()
    last = models.DateField()
    least = models.PositiveSmallIntegerField(default=2)
    unread = models.PositiveIntegerField(default=0)
    result = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bridge"], condition=Q(state__in=ACTIVE), name="proposal_one_at_a_time")
        ]
        indexes = [models.Index(fields=["workspace", "bridge", "-id"], name="proposal_newest")]


class ExampleOrder(WorkspaceOwned):
    """An order that rules were learnt from, without the people in it, and what the books hold for it.

    ``records`` are the documents as they were read there. ``contact`` is the code of a contact that several orders
    stand on; of one person's own nothing is kept.
    """

    proposal = models.ForeignKey(Proposal, on_delete=models.CASCADE, related_name="examples")
    number = models.CharField(max_length=120)
    order = models.JSONField()
    records = models.JSONField(default=list)
    contact = models.CharField(max_length=200, default="", blank=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "proposal", "id"], name="example_of_proposal")]
