"""What it takes to speak to an end: where it is, what opens it, and within which bounds."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from inkwell_bridge.ends.guard import Guard
from inkwell_bridge.ends.pace import UNPACED, Pace
from inkwell_bridge.ends.tokens import OwnTokens, Tokens


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """How long to wait, and how much to read.

    Units: ``timeout_seconds`` for each sign of life, ``longest_answer_seconds`` from the first byte that is sent to the
    last of the answer; ``largest_answer_bytes`` counts as they come and as they are unpacked.
    """

    timeout_seconds: float = 15.0
    connect_timeout_seconds: float = 5.0
    longest_answer_seconds: float = 60.0
    largest_answer_bytes: int = 20_000_000


# Where nothing was set: the public internet alone.
PUBLIC = Guard()


def _nobody() -> None:
    """Nobody wants to know that an end answered."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """What it takes to speak to an end.

    Shape: ``on_answer`` is called whenever it answers, whatever it says; ``pace`` gives turns to all who call it, and
    ``tokens`` keeps what it gave us for a while.
    """

    address: str
    credentials: Mapping[str, str]
    limits: Limits = Limits()
    guard: Guard = PUBLIC
    on_answer: Callable[[], None] = _nobody
    pace: Pace = UNPACED
    tokens: Tokens = field(default_factory=OwnTokens)
