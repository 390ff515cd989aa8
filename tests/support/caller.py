"""A process of its own that calls an end through its connection, as a worker would: WORKSPACE CONNECTION CALLS."""

from __future__ import annotations

import sys

import django

django.setup()

# Models can only be imported once Django is set up.
from inkwell_bridge.ends.errors import Busy  # noqa: E402
from inkwell_bridge.service.connections.ends import end_of  # noqa: E402
from inkwell_bridge.service.connections.models import Connection  # noqa: E402


def too_fast(workspace: str, connection: str, calls: int) -> int:
    """Check the end so many times; answers how often it was too fast."""
    found = Connection.objects.select_related("workspace").get(workspace__slug=workspace, slug=connection)
    busy = 0
    for _ in range(calls):
        try:
            end_of(found).check()
        except Busy:
            busy += 1
    return busy


if __name__ == "__main__":
    sys.stdout.write(f"busy {too_fast(sys.argv[1], sys.argv[2], int(sys.argv[3]))}\n")
