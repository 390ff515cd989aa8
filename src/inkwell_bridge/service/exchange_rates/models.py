"""The daily rates of a company."""

from __future__ import annotations

from django.db import models

from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


class DailyRate(WorkspaceOwned):
    """What a currency was worth on a day, in the company's own.

    A document keeps the rate that it was posted at, so a rate may be corrected at any time. Units: one unit of
    ``currency`` is ``rate`` units of the company's currency.
    """

    company = models.ForeignKey(Company, on_delete=models.CASCADE, related_name="+")
    currency = models.CharField(max_length=3)
    day = models.DateField()
    rate = models.DecimalField(max_digits=24, decimal_places=12)
    source = models.CharField(max_length=100, default="", blank=True)
    entered_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    entered_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workspace", "company", "currency", "day"], name="daily_rate_once"),
        ]
        indexes = [models.Index(fields=["workspace", "company", "-day", "currency"], name="daily_rate_newest")]
