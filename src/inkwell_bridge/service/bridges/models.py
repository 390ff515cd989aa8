"""Bridges, their lanes, rulebooks and timetables."""

from __future__ import annotations

from functools import cache
from zoneinfo import ZoneInfo, available_timezones

from django.db import models

from inkwell_bridge.core import timetable
from inkwell_bridge.core.timetable import LONGEST_RULE
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.tenancy import Pausable, Removable, WorkspaceOwned, slug_field, unique_while_current

# Asked of the files of the system, so once a process. What an end tells is a name out of these, or none.
_zones = cache(available_timezones)


class Bridge(Pausable, Removable):
    """What carries from one sales-side connection to one books-side connection.

    ``starts_on`` is the cut-over: an order placed before that day, in the company's time zone, is never posted.
    """

    slug = slug_field()
    name = models.CharField(max_length=200)
    source = models.ForeignKey(Connection, on_delete=models.PROTECT, related_name="bridges_out")
    books = models.ForeignKey(Connection, on_delete=models.PROTECT, related_name="bridges_in")
    company = models.ForeignKey(Company, on_delete=models.PROTECT, related_name="bridges")
    starts_on = models.DateField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [unique_while_current("slug", name="bridge_slug")]

    @property
    def source_zone(self) -> ZoneInfo:
        """The clocks that the sales side's own days go by, as it told when it was checked; those of the company, where
        it told none that are known."""
        told = self.source.described.get("time_zone")
        return ZoneInfo(told if told in _zones() else self.company.time_zone)


class Lane(WorkspaceOwned):
    """One kind of document over a bridge. A new lane is off.

    Which kinds there are, the carriage's registry knows. ``read_up_to`` is the newest change seen so far, by the
    source's own clock; ``looked_back_at`` when days before it were last read again.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="lanes")
    kind = models.CharField(max_length=30)
    on = models.BooleanField(default=False)
    read_up_to = models.DateTimeField(null=True)
    looked_back_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bridge", "kind"], name="lane_kind")]


class BaseRulebook(WorkspaceOwned):
    """One version of the rules that a client's bridges build on, under a name. It never changes once it is written."""

    name = models.CharField(max_length=100)
    number = models.PositiveIntegerField()
    text = models.TextField()
    author = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name", "number"], name="base_rulebook_number")]


class RulebookVersion(WorkspaceOwned):
    """One version of a bridge's rules. A published version never changes; the database sees to it.

    ``layers`` are the base rulebooks that it builds on, as they were when it was written: name, number and text.
    ``note`` is what its author or publisher said of it.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="rulebooks")
    number = models.PositiveIntegerField()
    text = models.TextField()
    layers = models.JSONField(default=list)
    author = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    published_at = models.DateTimeField(null=True)
    note = models.CharField(max_length=500, default="", blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bridge", "number"], name="rulebook_number")]


class Timetable(WorkspaceOwned):
    """When a lane of a bridge runs by itself; without ``kind``, every lane that has no timetable of its own.

    ``rule`` is text of RFC 5545 (``core.timetable.rules``), by the clocks of ``time_zone``. ``next_at`` is past where a
    run could not begin yet, as another was under way: it is made up for once that has ended.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="timetables")
    kind = models.CharField(max_length=30, default="", blank=True)
    rule = models.CharField(max_length=LONGEST_RULE)
    time_zone = models.CharField(max_length=60)
    next_at = models.DateTimeField(db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bridge", "kind"], name="timetable_lane")]

    @property
    def table(self) -> timetable.Timetable:
        """It, in fields."""
        return timetable.from_rule(self.rule, self.time_zone)
