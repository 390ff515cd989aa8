"""The states of runs, crossings and documents."""

from __future__ import annotations

from django.db import models


class DocumentState(models.TextChoices):
    """How far one document of a plan has come."""

    WAITING = "waiting", "Waiting"
    DRAFTED = "drafted", "Drafted"
    POSTED = "posted", "Posted"
    PROVED = "proved", "Proved"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    ADOPTED = "adopted", "Adopted"


class CrossingState(models.TextChoices):
    """What has become of one source document."""

    WAITING = "waiting", "Waiting"
    CARRIED = "carried", "Carried"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    LEFT_OUT = "left out", "Left out"
    ADOPTED = "adopted", "Adopted"


class RunPurpose(models.TextChoices):
    """What a run is for."""

    CARRY = "carry", "Carry"
    ADOPT = "adopt", "Adopt"


class RunState(models.TextChoices):
    """How far a run has come."""

    READING = "reading", "Reading"
    CARRYING = "carrying", "Carrying"
    ENDED = "ended", "Ended"
    FAILED = "failed", "Failed"


class EntryOutcome(models.TextChoices):
    """What a run did with one source document; ``pending`` is not an outcome yet."""

    PENDING = "pending", "Pending"
    UNCHANGED = "unchanged", "Unchanged"
    WAITING = "waiting", "Waiting"
    CARRIED = "carried", "Carried"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    LEFT_OUT = "left out", "Left out"
    ADOPTED = "adopted", "Adopted"


ACTIVE_RUN = (RunState.READING, RunState.CARRYING)
