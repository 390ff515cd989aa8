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

    ``at`` is the JSON Pointer (RFC 6901) of the part that is wrong.
    """

    def __init__(self, at: str, expected: str) -> None:
        self.at = at
        self.expected = expected
        super().__init__(f"{at or '/'}: {expected}")
