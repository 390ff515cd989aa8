"""Exit statuses.

| status | meaning                                                         |
|--------|-----------------------------------------------------------------|
| 0      | done                                                            |
| 1      | done, but something needs a person (held, differing, failed)    |
| 2      | the command was not used rightly                                |
| 3      | not signed in, or not allowed                                   |
| 4      | no such thing                                                   |
| 5      | what was sent is not right                                      |
| 6      | something stands in the way                                     |
| 7      | the service did not answer, or failed                           |
| 130    | interrupted by Ctrl-C; what was started goes on                 |
"""

from __future__ import annotations

from inkwell_bridge.client import ApiError, Conflict, Forbidden, Invalid, NotFound, NotSignedIn

DONE, NEEDS_A_PERSON, MISUSED, NOT_SIGNED_IN, NO_SUCH_THING, NOT_RIGHT = 0, 1, 2, 3, 4, 5
INTERRUPTED = 130
MEANINGS = {
    MISUSED: "The command was not used rightly",
    NOT_SIGNED_IN: "Not signed in",
    NO_SUCH_THING: "No such thing",
    NOT_RIGHT: "What was given is not right",
}

_STATUS: list[tuple[type[ApiError], int]] = [
    (NotSignedIn, NOT_SIGNED_IN),
    (Forbidden, NOT_SIGNED_IN),
    (NotFound, NO_SUCH_THING),
    (Invalid, NOT_RIGHT),
    (Conflict, 6),
    (ApiError, 7),
]


def status_of(error: ApiError) -> int:
    """The exit status that an error ends a command with."""
    return next(status for kind, status in _STATUS if isinstance(error, kind))
