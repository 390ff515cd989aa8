"""The tree of errors that the core raises.

InkwellError
├── NotExact           an amount that its currency cannot hold
├── DocumentInvalid    a document that breaks its own shape
└── RulebookInvalid    a rulebook that cannot be used, with every finding (rulebook/invalid.py)
"""

from __future__ import annotations


class InkwellError(Exception):
    """Anything that this program refuses to do, with a reason a person can read."""


class NotExact(InkwellError, ValueError):
    """An amount has more digits than its currency, or is no number at all."""


class DocumentInvalid(InkwellError):
    """A document breaks its own shape.

    ``file`` is where it was read from, if anywhere; ``at`` is the JSON Pointer (RFC 6901) of the part
    that is wrong.
    """

    def __init__(self, at: str, expected: str, *, file: str = "") -> None:
        self.file = file
        self.at = at
        self.expected = expected
        place = f"{file}, {at or 'the whole'}" if file else at or "/"
        super().__init__(f"{place}: {expected}")
