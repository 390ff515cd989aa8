"""What can go wrong at an end. Every driver's error becomes one of these.

EndError
├── Refused          it said no, and would say so again: a person must act
├── Temporary        worth trying again by itself
│   ├── Busy         it asked us to slow down
│   └── Away         it could not be reached, or failed before anything was done
│       ├── Misstated    it answered, and something in its answer could not be understood
│       └── TooLarge     it answered with more than an answer may hold
├── OutcomeUnknown   the call went out and no answer came: it may or may not have been done
└── NotOffered       its capabilities said that it cannot
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.text import fit_line

LONGEST_MESSAGE = 800
Why = Literal["credentials", "permission", "document", "not found", "locked", "changed", "address", "sign-in", "number"]


class EndError(InkwellError):
    """Something went wrong at an outside system; what it says of it is made fit to be shown."""

    def __init__(self, message: str) -> None:
        super().__init__(fit_line(message, LONGEST_MESSAGE))


class Refused(EndError):
    """The end said no.

    ``why``: a wrong key, a missing right, a document it will not take, nothing there, a locked period, a
    document that somebody changed since it was read, an address where no end may be, a sign-in that was
    never made or is over, or a number that another document bears already.
    """

    def __init__(self, message: str, *, why: Why = "document") -> None:
        self.why: Why = why
        super().__init__(message)


class Temporary(EndError):
    """Nothing was done; the same call may go through later."""

    retry_after_seconds: float | None = None


class Busy(Temporary):
    """The end asked for a pause of ``retry_after_seconds``, where it named one."""

    def __init__(self, message: str, *, retry_after_seconds: float | None = None) -> None:
        self.retry_after_seconds = retry_after_seconds
        super().__init__(message)


class Away(Temporary):
    """The end could not be reached, or its answer could not be read."""


class Misstated(Away):
    """The end answered, and said something that cannot be: of many things asked about together, one may be to blame."""


class TooLarge(Away):
    """An answer was larger than one may be: of a page, one thing on it may be to blame.

    Shape: ``beginning`` is how it began, ``url`` where it came from, ``links`` its Link header (RFC 8288) by relation.
    """

    def __init__(
        self, message: str, *, beginning: bytes, url: str, links: Mapping[str | None, Mapping[str, str]]
    ) -> None:
        self.beginning, self.url, self.links = beginning, url, links
        super().__init__(message)


class OutcomeUnknown(EndError):
    """A call that changes something went out and was not answered."""


class NotOffered(EndError):
    """The end has no such thing; its capabilities said so."""

    def __init__(self, end: str, what: str) -> None:
        super().__init__(f"{end} has no {what}.")
