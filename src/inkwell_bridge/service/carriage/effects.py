"""What a step of carrying asks to be done for it, so that many documents are carried together.

A step is a generator. It does not call an end, write a row or look something up by itself: it yields what it wants
done and is handed the outcome, or has the error raised at that place. Whoever runs it (``lot.py``) runs the steps of
many documents side by side, and does at once what several of them ask for: one statement for all rows, one question
for a page of numbers, all calls at the same time. So a step reads as the story of one document, and costs what a share
of its lot costs.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Hashable, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from django.db.models import Model

Done = TypeVar("Done")


@dataclass(frozen=True, slots=True)
class Call:
    """One call to an end. It goes out once all rows that were asked for are committed, and all locks still ours.

    Outcome: what ``work`` answers. Raises what it raises.
    """

    work: Callable[[], Any]


@dataclass(frozen=True, slots=True)
class Ask:
    """A question that is put once for all documents of a lot that put it ``to`` the same.

    ``question(to, abouts)`` answers as many as it is asked about, in their order; an exception among them is raised
    with the one that it is the answer to. With ``calls_end`` it calls an end and keeps no database session.

    Outcome: the answer about ``about``.
    """

    question: Callable[[Any, Sequence[Any]], Sequence[Any]]
    to: Hashable
    about: Any
    calls_end: bool = False


@dataclass(frozen=True, slots=True)
class Save:
    """Rows to be written: those without a key are made, of the others ``fields`` are changed.

    Outcome: nothing; they are committed.
    """

    rows: Sequence[Model]
    fields: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Lock:
    """Locks that nobody else may hold meanwhile. They are given back by ``Unlock``, or when the document is done.

    Outcome: whether they came free within so many seconds.
    """

    names: tuple[str, ...]
    wait_seconds: float


@dataclass(frozen=True, slots=True)
class Unlock:
    """Give locks back. Outcome: nothing."""

    names: tuple[str, ...]


Effect = Call | Ask | Save | Lock | Unlock
Effects = Generator[Effect, Any, Done]
"""What a step, or a part of one, is: it yields effects and answers ``Done``. Another calls it by ``yield from``."""
