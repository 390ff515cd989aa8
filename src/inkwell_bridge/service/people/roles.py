"""What a person may do in a workspace; each role may do all that the ones before it may."""

from __future__ import annotations

from django.db import models


class Role(models.TextChoices):
    """The five roles: who writes rules need not be who puts them in force."""

    SEE = "see", "See"
    OPERATE = "operate", "Operate"
    EDIT = "edit", "Edit rules"
    PUBLISH = "publish", "Publish rules"
    OWN = "own", "Own"


_RANK = {role.value: rank for rank, role in enumerate(Role)}


def allows(role: str, needed: str) -> bool:
    """Whether ``role`` may do what ``needed`` may."""
    return _RANK[role] >= _RANK[needed]


def lower(one: str, other: str) -> str:
    """The role of the two that may do less."""
    return min(one, other, key=_RANK.__getitem__)
