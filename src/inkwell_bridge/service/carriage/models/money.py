"""Amounts for totals, what is left open, and money by its provider's transaction."""

from __future__ import annotations

from enum import StrEnum

from django.db import models
from django.db.models import Q

from inkwell_bridge.core.proof import Between, Grain, Section, Side
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models.documents import Crossing, Document
from inkwell_bridge.service.carriage.models.fields import amount_field
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.tenancy import WorkspaceOwned


def _choices(of: type[StrEnum]) -> list[tuple[str, str]]:
    return [(one.value, one.value) for one in of]


class _Amounts(WorkspaceOwned):
    """Amounts of a day on the sheet. ``section`` is the part of it that they belong to. Units: in ``currency``; what
    came back counts against."""

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="+")
    grain = models.CharField(max_length=10, choices=_choices(Grain))
    section = models.CharField(max_length=10, choices=_choices(Section), default="", blank=True)
    date = models.DateField()
    currency = models.CharField(max_length=3)
    tax_code = models.CharField(max_length=120, default="")
    tender = models.CharField(max_length=30, default="")
    count = models.IntegerField(default=0)
    net = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    tax = models.DecimalField(max_digits=20, decimal_places=4, default=0)
    gross = models.DecimalField(max_digits=20, decimal_places=4, default=0)

    class Meta:
        abstract = True


class _OfSide(_Amounts):
    """The same of one side.

    ``date`` is the business day of that side: the source's day, or the date of the document in the books. ``role`` is
    the kind of a source document, the role of a document in the books, or the reason of what reconciles.
    """

    side = models.CharField(max_length=12, choices=_choices(Side))
    role = models.CharField(max_length=30)
    account = models.CharField(max_length=120, default="")

    class Meta:
        abstract = True


class Figure(_OfSide):
    """One amount for totals, of one crossing; never changed: when what it says changes, what it said is taken off by
    further rows. A total of any period is one grouped sum."""

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="figures")
    written_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["workspace", "date", "side", "grain"], name="figure_period")]


class DayTotal(_OfSide):
    """The figures of a day by all that tells them apart but the crossing, so that a month is a sum of some thousand
    rows, whatever the number of orders.

    Whoever writes figures adds what they come to, in rows of their own: rows that many change would make them wait for
    one another. ``merged`` are those that upkeep has put together since.
    """

    merged = models.BooleanField(default=False)

    class Meta:
        indexes = [
            models.Index(fields=["workspace", "date"], name="day_total_period"),
            models.Index(fields=["workspace", "date"], condition=Q(merged=False), name="day_total_to_merge"),
        ]


class Difference(_Amounts):
    """What stands between the two sides of one crossing on a day, by its figures as they are now; of most crossings
    nothing does. ``account`` is empty but of what stands between those of one.

    ``reason`` is why, by what has become of the crossing by now, and ``detail`` what it is held for, or the rule that
    left it out: the database itself keeps both in step with the crossing (migration 0037).
    """

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="differences")
    between = models.CharField(max_length=10, choices=_choices(Between))
    account = models.CharField(max_length=120, default="")
    reason = models.CharField(max_length=60, default="")
    detail = models.CharField(max_length=120, default="")

    class Meta:
        indexes = [models.Index(fields=["workspace", "date"], name="difference_period")]


class OpenBalance(WorkspaceOwned):
    """What is left open of an order in the books, its refunds counted; kept where payments are carried.

    ``since`` is the day of the last document. Units: ``amount`` in ``currency``; below zero it is owed to the customer.
    """

    bridge = models.ForeignKey(Bridge, on_delete=models.CASCADE, related_name="+")
    crossing = models.OneToOneField(Crossing, on_delete=models.CASCADE, related_name="open_balance")
    amount = models.DecimalField(max_digits=20, decimal_places=4)
    currency = models.CharField(max_length=3)
    since = models.DateField()

    class Meta:
        indexes = [models.Index(fields=["bridge", "since"], name="open_balance_oldest")]


class ToldPayment(WorkspaceOwned):
    """Money of an order, or of a refund, that another than the sales side told of: the order has it besides its own.

    ``payment`` is as in ``core.commerce.Payment``; ``transaction`` tells one from another. One that was taken back
    stays, as money that did not stay.
    """

    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="told_payments")
    transaction = models.CharField(max_length=120)
    payment = models.JSONField()
    told_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["crossing", "transaction"], name="told_payment_once")]
        # Whoever told of it leads from there to whose money it is.
        indexes = [models.Index(fields=["workspace", "transaction"], name="told_payment_transaction")]


class MoneyMovement(WorkspaceOwned):
    """One transaction of a provider, whoever told of it first: made once, found by all others. Of what was paid out,
    the part that each payout sent on its way.

    ``account`` is the provider's account where the sales side names one. ``crossing`` told of it, ``document`` is what
    posted it. Units: ``amount`` in ``currency``, as moved: negative where it went back.
    """

    connection = models.ForeignKey(Connection, on_delete=models.CASCADE, related_name="movements")
    account = models.CharField(max_length=120, default="")
    transaction = models.CharField(max_length=120)
    kind = models.CharField(max_length=20)
    tender = models.CharField(max_length=30, default="")
    amount = amount_field()
    currency = models.CharField(max_length=3)
    moved_at = models.DateTimeField(null=True)
    crossing = models.ForeignKey(Crossing, on_delete=models.CASCADE, related_name="movements")
    document = models.ForeignKey(Document, on_delete=models.SET_NULL, null=True, related_name="movements")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workspace", "connection", "account", "transaction", "kind"],
                condition=~Q(kind="paid out"), name="movement_transaction",
            ),
            # A charge may be paid out in parts, by several payouts.
            models.UniqueConstraint(
                fields=["crossing", "transaction"], condition=Q(kind="paid out"), name="movement_paid_out"
            ),
        ]  # fmt: skip
        # Shop and provider are two connections, and know the same money by its transaction alone.
        indexes = [models.Index(fields=["workspace", "transaction"], name="movement_by_transaction")]
