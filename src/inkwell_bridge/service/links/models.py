"""Which product is which item, which customer is which contact; every change of it stays and can be taken back."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.tenancy import WorkspaceOwned

KINDS = [(kind.value, kind.value.capitalize()) for kind in LinkKind]


class What(models.TextChoices):
    """What a change was."""

    MATCHED = "matched", "Matched by rule"
    ANSWERED = "answered", "Answered"
    CREATING = "creating", "Being made in the books"
    IMPORTED = "imported", "Imported"
    UNDONE = "undone", "Taken back"
    SWITCHED = "switched", "Another company"


class Change(WorkspaceOwned):
    """One change of links between a sales side and books, by a person, an import or the rules.

    Its number is the version of the links: what stood at any time can be told. ``undoes`` is the change it took back.
    """

    source = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    books = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=20, choices=KINDS)
    what = models.CharField(max_length=10, choices=What)
    at = models.DateTimeField(auto_now_add=True)
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    text = models.CharField(max_length=500, default="", blank=True)
    undoes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="undone_by")

    class Meta:
        indexes = [models.Index(fields=["workspace", "source", "books", "kind", "-id"], name="change_newest")]


class Link(WorkspaceOwned):
    """One product or customer of the sales side, and one item or contact of the books.

    A kit or pack has several rows, or one with a quantity. No ``target_id`` says that there is no counterpart.
    Units: one sold is ``quantity`` of the item; ``share`` is its part of a kit's price, where that is said.
    """

    source = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    books = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=20, choices=KINDS)
    key = models.CharField(max_length=120)
    target_id = models.CharField(max_length=120, default="", blank=True)
    target_code = models.CharField(max_length=200, default="", blank=True)
    quantity = models.DecimalField(max_digits=15, decimal_places=6, default=1)
    share = models.DecimalField(max_digits=15, decimal_places=6, null=True)
    rule = models.CharField(max_length=30, default="", blank=True)
    made_in = models.ForeignKey(Change, on_delete=models.PROTECT, related_name="made")
    ended_in = models.ForeignKey(Change, on_delete=models.PROTECT, null=True, related_name="ended")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workspace", "source", "books", "kind", "key", "target_id"],
                condition=Q(ended_in__isnull=True),
                name="link_once",
            )
        ]
        indexes = [
            models.Index(fields=["workspace", "books", "kind", "target_id"], name="link_target"),
            models.Index(fields=["made_in"], name="link_made"),
        ]


class Switch(WorkspaceOwned):
    """A connection that was given to another company.

    What ended by it can be brought back for a while: ``changes`` are those of the links, ``lanes`` those that were on;
    ``company_before`` is the client's company that it belonged to, ``before`` and ``now`` are as the end called itself.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField()
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    before = models.CharField(max_length=200)
    now = models.CharField(max_length=200)
    company_before = models.ForeignKey(Company, on_delete=models.PROTECT, null=True, related_name="+")
    changes = models.JSONField(default=list)
    lanes = models.JSONField(default=list)
    undone_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "connection", "-id"], name="switch_newest")]
