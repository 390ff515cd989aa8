"""Reference data of both ends: each going-over of an end, and every entry it found."""

from __future__ import annotations

from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q

from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.tenancy import WorkspaceOwned


class Part(models.TextChoices):
    """What is loaded by a job of its own: the short lists all at once, each long list by itself."""

    LISTS = "lists", "Lists"
    ITEMS = "items", "Items"
    CONTACTS = "contacts", "Contacts"
    PRODUCTS = "products", "Products"
    CUSTOMERS = "customers", "Customers"


class LoadingState(models.TextChoices):
    """How far a going-over is."""

    WAITING = "waiting", "Waiting"
    LOADING = "loading", "Loading"
    ENDED = "ended", "Ended"
    FAILED = "failed", "Failed"


ACTIVE_LOADING = (LoadingState.WAITING, LoadingState.LOADING)


class Loading(WorkspaceOwned):
    """One going-over of one part of an end's names. ``first`` tells the one before which nothing was known."""

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="loadings")
    part = models.CharField(max_length=20, choices=Part)
    state = models.CharField(max_length=10, choices=LoadingState, default=LoadingState.WAITING)
    asked_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    asked_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    first = models.BooleanField(default=False)
    read = models.PositiveIntegerField(default=0)
    expected = models.PositiveIntegerField(null=True)
    added = models.PositiveIntegerField(default=0)
    changed = models.PositiveIntegerField(default=0)
    gone = models.PositiveIntegerField(default=0)
    unreadable = models.PositiveIntegerField(default=0)
    trouble = models.TextField(default="", blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["connection", "part"], condition=Q(state__in=ACTIVE_LOADING), name="loading_one_at_a_time"
            )
        ]
        indexes = [models.Index(fields=["workspace", "connection", "part", "-id"], name="loading_newest")]


class Entry(WorkspaceOwned):
    """One thing that an end has a name for.

    The ``…_key`` fields are what links are found by. Of an entry that has gone from the end, whatever told of a
    person is blanked at once: only its id and code stay.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=30)
    source_id = models.CharField(max_length=120)
    code = models.CharField(max_length=200, default="", blank=True)
    name = models.CharField(max_length=500, default="", blank=True)
    details = models.JSONField(default=dict)
    search = models.CharField(max_length=900, default="", blank=True)
    code_key = models.CharField(max_length=200, default="", blank=True)
    barcode_key = models.CharField(max_length=120, default="", blank=True)
    email_key = models.CharField(max_length=320, default="", blank=True)
    tax_number_key = models.CharField(max_length=120, default="", blank=True)
    place_key = models.CharField(max_length=600, default="", blank=True)
    active = models.BooleanField(default=True)
    checksum = models.CharField(max_length=32)
    seen_in = models.ForeignKey(Loading, on_delete=models.PROTECT, related_name="+")
    added_in = models.ForeignKey(Loading, on_delete=models.PROTECT, related_name="+")
    changed_in = models.ForeignKey(Loading, on_delete=models.PROTECT, null=True, related_name="+")
    gone_in = models.ForeignKey(Loading, on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "kind", "source_id"], name="entry_source")]
        indexes = [
            models.Index(fields=["workspace", "connection", "kind", "code"], name="entry_code"),
            models.Index(fields=["connection", "kind", "code_key"], name="entry_code_key", condition=~Q(code_key="")),
            models.Index(fields=["connection", "barcode_key"], name="entry_barcode_key", condition=~Q(barcode_key="")),
            models.Index(fields=["connection", "email_key"], name="entry_email_key", condition=~Q(email_key="")),
            models.Index(fields=["connection", "tax_number_key"], name="entry_tax_number_key",
                         condition=~Q(tax_number_key="")),
            models.Index(fields=["connection", "place_key"], name="entry_place_key", condition=~Q(place_key="")),
            GinIndex(fields=["search"], name="entry_search", opclasses=["gin_trgm_ops"]),
        ]  # fmt: skip
