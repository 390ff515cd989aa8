"""Encrypt everything sealed under the newest key, so that older keys can be taken away."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction

from inkwell_bridge.service import vault
from inkwell_bridge.service.carriage.models import PersonalData
from inkwell_bridge.service.connections.models import Connection, Grant, SignIn
from inkwell_bridge.service.people.models import SecondFactor

BATCH = 500


class Command(BaseCommand):
    """``rotate_keys``: put a new key in front of the old ones first; run this; then take the old ones away."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Seal credentials and personal data anew, in batches."""
        number = sum(
            self._renew(rows, field)
            for rows, field in (
                (Connection.objects.all(), "credentials"),
                (Grant.objects.exclude(sealed=b""), "sealed"),
                (SignIn.objects.all(), "sealed"),
                (SecondFactor.objects.all(), "sealed"),
                (PersonalData.objects.filter(sealed__isnull=False), "sealed"),
            )
        )
        self.stdout.write(f"{number} secrets are sealed under the newest key.")

    def _renew(self, rows: Any, field: str) -> int:
        number, last = 0, 0
        while True:
            with transaction.atomic():
                batch = list(rows.filter(pk__gt=last).order_by("pk").select_for_update()[:BATCH])
                if not batch:
                    return number
                for row in batch:
                    setattr(row, field, vault.resealed(getattr(row, field)))
                rows.model.objects.bulk_update(batch, [field])
            number, last = number + len(batch), batch[-1].pk
