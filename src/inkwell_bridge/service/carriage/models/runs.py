"""Goings-over of a bridge, and what each had to do."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.models.documents import Crossing
from inkwell_bridge.service.carriage.states import (
    ACTIVE_RUN,
    EntryOutcome,
    RunPurpose,
    RunState,
)
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Run(WorkspaceOwned):
    """One going-over of a bridge: of its lanes that are on, or of ``lanes``; of ``numbers``, those orders alone; of the
    documents of ``first_day`` to ``last_day`` alone; or ``again`` of what came to ``outcomes`` in an earlier run.
    ``unchanged`` counts what it had no work with; all else it touched has an entry. ``rulebook`` is the version that a
    trial is carried under. ``trouble`` is why it failed, or what keeps it from reading until ``next_try_at``."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="runs")
    purpose = models.CharField(max_length=10, choices=RunPurpose, default=RunPurpose.CARRY)
    state = models.CharField(max_length=10, choices=RunState, default=RunState.READING)
    numbers = models.JSONField(default=list)
    lanes = models.JSONField(default=list)
    first_day = models.DateField(null=True)
    last_day = models.DateField(null=True)
    again = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    outcomes = models.JSONField(default=list)
    rulebook = models.ForeignKey(RulebookVersion, on_delete=models.PROTECT, null=True, related_name="+")
    started_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    by_timetable = models.BooleanField(default=False)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    trouble = models.TextField(default="")
    next_try_at = models.DateTimeField(null=True)
    unchanged = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bridge"], condition=Q(state__in=ACTIVE_RUN), name="run_one_at_a_time"),
        ]
        indexes = [
            models.Index(fields=["workspace", "-id"], name="run_newest"),
            models.Index(fields=["bridge", "-id"], name="run_of_bridge"),
        ]


class RunEntry(WorkspaceOwned):
    """What one run has to do with one source document, and what came of it."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="entries")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="entries")
    outcome = models.CharField(max_length=10, choices=EntryOutcome, default=EntryOutcome.PENDING)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "crossing"], name="entry_crossing")]
        indexes = [models.Index(fields=["run", "outcome"], name="entry_outcome")]
