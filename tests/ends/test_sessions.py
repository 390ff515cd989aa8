"""One session that threads share: signed in once for all, and refused once for all."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.sessions import Session

THREADS = 20


class Door:
    """Where one signs in: nobody is answered before all have come, so that each has to wait for the one that asks."""

    def __init__(self, *, refuses: bool) -> None:
        self.refuses, self.tries = refuses, 0
        self.here = threading.Semaphore(0)

    def sign_in(self) -> str:
        """A session, or a refusal."""
        self.tries += 1
        if self.tries == 1:
            for _ in range(THREADS):
                self.here.acquire(timeout=10)
            # Each has said that it is here, and is about to stand in line.
            time.sleep(0.3)
        if self.refuses:
            raise Refused("this key has been revoked", why="credentials")
        return f"session-{self.tries}"


def all_call(door: Door) -> list[str]:
    """What each of many is told who call at once."""
    session = Session(door.sign_in)

    def call(_: int) -> str:
        door.here.release()
        try:
            return session.call(lambda current: current)
        except Refused as refused:
            return f"{refused.why}: {refused}"

    with ThreadPoolExecutor(THREADS) as pool:
        return list(pool.map(call, range(THREADS)))


@pytest.mark.parametrize(("refuses", "said"), [(False, "session-1"), (True, "credentials: this key has been revoked")])
def test_whoever_waits_for_a_sign_in_is_told_what_came_of_it(refuses: bool, said: str) -> None:
    """Twenty refusals within a second are what gets an account locked."""
    door = Door(refuses=refuses)
    assert set(all_call(door)) == {said}
    # Who came only after the refusal tries for itself.
    assert door.tries <= 2


def test_a_refusal_is_forgotten_once_somebody_mended_it() -> None:
    """The next call signs in."""
    door = Door(refuses=True)
    session = Session(door.sign_in)
    for mended in (False, True):
        door.refuses = not mended
        door.here.release(THREADS)
        if not mended:
            with pytest.raises(Refused):
                session.call(lambda current: current)
    assert session.call(lambda current: current) == "session-2"
