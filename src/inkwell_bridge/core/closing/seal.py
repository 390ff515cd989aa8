"""The seal of a closed month: a checksum over the frozen report, chained to that of the closing before.

Whoever has the reports of a company can work all of it out again, with no more than SHA-256: one figure that was
changed later, one closing that was taken out or put in between, and the chain does not hold.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from inkwell_bridge.core.values import Code, Moment, Text, Value, canonical

# What the first closing of a company is chained to.
BEFORE_THE_FIRST = "0" * 64


class Seal(Value):
    """Who closed a month, when, and the checksum.

    Shape: ``number`` counts the closings of the company, in order; ``proposed_by`` is the first of two pairs of eyes,
    empty where the client's rule asks for one; ``previous`` is the checksum of the closing before. ``checksum`` is the
    SHA-256, in hexadecimal, of the UTF-8 text of ``{"report": …, "seal": …}`` with sorted keys and no spare space, the
    seal without its checksum.
    """

    number: int
    closed_by: Code
    closed_at: Moment
    note: Text = ""
    proposed_by: Text = ""
    previous: Code = BEFORE_THE_FIRST
    checksum: Text = ""


def checksum_of(report: Value, seal: Seal) -> str:
    """The checksum of a report under a seal; see ``Seal``."""
    # The checksum cannot be of itself; all else that the seal says is covered, who closed it and the note among them.
    said = {"report": report.as_json(), "seal": {k: v for k, v in seal.as_json().items() if k != "checksum"}}
    return hashlib.sha256(canonical(said).encode()).hexdigest()


class BrokenLink(NamedTuple):
    """A closing at which the chain does not hold, and why."""

    number: int
    why: str


def broken_links(chain: Iterable[tuple[Value, Seal]]) -> Iterator[BrokenLink]:
    """Where the closings of a company, in order, do not hold together; nowhere, where nobody touched them."""
    previous, number = BEFORE_THE_FIRST, 1
    for report, seal in chain:
        # Three questions, for each fails alone: one put in, one taken out, and figures that were changed.
        if seal.number != number:
            yield BrokenLink(seal.number, f"Closing {number} was expected here: one is missing, or was put in.")
        if seal.previous != previous:
            yield BrokenLink(seal.number, "It is not chained to the closing before it.")
        if checksum_of(report, seal) != seal.checksum:
            yield BrokenLink(seal.number, "Its checksum is not that of its figures.")
        # From what stands there, and not from what should: one broken link is told once, and not all after it too.
        previous, number = seal.checksum, seal.number + 1
