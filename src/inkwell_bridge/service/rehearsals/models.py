"""Rehearsals, and the documents that each would change."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.asked_work import ACTIVE, AskedWork
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Rehearsal(AskedWork):
    """The documents of a period under a version of the rules, beside those of another; nothing is sent.

    Shape: without ``since`` nothing is compared, and what the rules cover is all that is asked. ``result`` is what it
    came to, ``coverage`` the values that the orders hold; both are there once it has ended. ``changed`` counts those
    whose plan is another, of which the first are kept one by one.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="rehearsals")
    rulebook = models.ForeignKey(RulebookVersion, on_delete=models.CASCADE, related_name="+")
    since = models.ForeignKey(RulebookVersion, on_delete=models.CASCADE, null=True, related_name="+")
    first = models.DateField()
    last = models.DateField()
    changed = models.PositiveIntegerField(default=0)
    result = models.JSONField(default=dict)
    coverage = models.JSONField(default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bridge"], condition=Q(state__in=ACTIVE), name="rehearsal_one_at_a_time")
        ]
        indexes = [models.Index(fields=["workspace", "bridge", "-id"], name="rehearsal_newest")]


class ChangedPlan(WorkspaceOwned):
    """A document whose plan is another under the rehearsed rules; ``why`` it is held or left out, where it was not."""

    rehearsal = models.ForeignKey(Rehearsal, on_delete=models.CASCADE, related_name="changed_plans")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="+")
    before = models.CharField(max_length=10)
    after = models.CharField(max_length=10)
    why = models.TextField(default="")
    changes = models.JSONField(default=list)

    class Meta:
        indexes = [models.Index(fields=["workspace", "rehearsal", "id"], name="changed_plan_of")]
