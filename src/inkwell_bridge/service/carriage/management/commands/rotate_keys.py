"""Encrypt everything sealed under the newest key, so that older keys can be taken away."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.apps import apps
from django.core.management.base import BaseCommand
from django.db import models, transaction

from inkwell_bridge.service import vault

BATCH = 500


class Command(BaseCommand):
    """``rotate_keys``: put a new key in front of the old ones first; run this; then take the old ones away."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Seal credentials and personal data anew, in batches."""
        number = sum(self._renew(model.objects.all(), column) for model, column in _sealed())
        self.stdout.write(f"{number} secrets are sealed under the newest key.")

    def _renew(self, rows: Any, field: str) -> int:
        rows = rows.exclude(**{field: b""}).filter(**{f"{field}__isnull": False})
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


def _sealed() -> Iterator[tuple[Any, str]]:
    """Each column that is sealed: all binary ones are, in whatever room."""
    for model in apps.get_models():
        if model.__module__.startswith("inkwell_bridge."):
            for field in model._meta.concrete_fields:
                if isinstance(field, models.BinaryField):
                    yield model, field.name
