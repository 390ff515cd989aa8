"""Months that were closed, what a person accepted of them, and what changed in them afterwards."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from inkwell_bridge.core.proof import Grain, Section, Side
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.tenancy import WorkspaceOwned


class OfMonth(WorkspaceOwned):
    """A row about a month of a company. ``month`` is its first day."""

    company = models.ForeignKey(Company, on_delete=models.PROTECT, related_name="+")
    month = models.DateField()

    class Meta:
        abstract = True


def _person(*, null: bool = False) -> models.ForeignKey:
    return models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=null, related_name="+")


class AcceptedDifference(OfMonth):
    """That somebody accepts an open item of a month, as it was then. ``item`` is ``core.closing.OpenItem``.

    It may be taken back until the month is closed; what it said stays.
    """

    reason = models.CharField(max_length=60)
    detail = models.CharField(max_length=120, default="", blank=True)
    item = models.JSONField()
    note = models.CharField(max_length=500)
    person = _person()
    at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True)
    withdrawn_by = _person(null=True)

    class Meta:
        indexes = [models.Index(fields=["company", "month", "id"], name="accepted_of_month")]


class ClosingProposal(OfMonth):
    """That somebody proposes to close a month, until another does so or it is taken back. ``digest`` is that of the
    report that was proposed: whoever closes it closes the same figures."""

    person = _person()
    at = models.DateTimeField()
    note = models.CharField(max_length=500, default="", blank=True)
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["company", "month"], name="closing_proposed_once")]


class MonthClosing(OfMonth):
    """A month as it was closed: its figures are never changed. ``content`` is ``core.closing.ClosedReport``; ``number``
    counts the closings of the company, each chained to the one before."""

    number = models.PositiveIntegerField()
    content = models.JSONField()
    checksum = models.CharField(max_length=64)
    note = models.CharField(max_length=500, default="", blank=True)
    closed_by = _person()
    closed_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["company", "number"], name="closing_number")]
        indexes = [
            models.Index(fields=["company", "month", "-number"], name="closing_of_month"),
            models.Index(fields=["workspace", "-id"], name="closing_newest"),
        ]


class Reopening(WorkspaceOwned):
    """That a closed month is open again: by whom, when and why."""

    closing = models.OneToOneField(MonthClosing, on_delete=models.PROTECT, related_name="reopening")
    person = _person()
    at = models.DateTimeField()
    note = models.CharField(max_length=500)


class LaterChange(WorkspaceOwned):
    """What a figure of a closed month was changed by, after it was closed; the frozen figures stand beside it."""

    closing = models.ForeignKey(MonthClosing, on_delete=models.PROTECT, related_name="later_changes")
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="+")
    side = models.CharField(max_length=12, choices=[(one.value, one.value) for one in Side])
    grain = models.CharField(max_length=10, choices=[(one.value, one.value) for one in Grain])
    section = models.CharField(max_length=10, choices=[(one.value, one.value) for one in Section if one])
    date = models.DateField()
    currency = models.CharField(max_length=3)
    tax_code = models.CharField(max_length=120, default="", blank=True)
    tender = models.CharField(max_length=30, default="", blank=True)
    count = models.IntegerField(default=0)
    net = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    tax = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    gross = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["closing", "crossing"], name="later_change_of")]
        constraints = [models.CheckConstraint(condition=~Q(section=""), name="later_change_on_sheet")]
