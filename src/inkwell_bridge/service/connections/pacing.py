"""The pace of a connection, kept in the database, so that all workers together call no faster than its end allows."""

from __future__ import annotations

import time
from datetime import timedelta

from django.db import connection as database

from inkwell_bridge.ends.pace import LONGEST_WAIT_SECONDS, Rate, refuse_long
from inkwell_bridge.service.sessions import give_session_back

# A turn is one statement: where the last one given away is over is moved on, unless that is too far off.
_TAKE = """
    INSERT INTO connections_pace AS pace (connection_id, workspace_id, over_at)
    VALUES (%(connection)s, %(workspace)s, clock_timestamp() + %(interval)s)
    ON CONFLICT (connection_id) DO UPDATE
    SET over_at = greatest(pace.over_at, clock_timestamp()) + %(interval)s
    WHERE pace.over_at <= clock_timestamp() + %(longest)s
    RETURNING extract(epoch FROM over_at - clock_timestamp())
"""
_PAUSE = """
    INSERT INTO connections_pace AS pace (connection_id, workspace_id, over_at)
    VALUES (%(connection)s, %(workspace)s, clock_timestamp() + %(pause)s)
    ON CONFLICT (connection_id) DO UPDATE SET over_at = greatest(pace.over_at, clock_timestamp() + %(pause)s)
"""
_LEFT = "SELECT extract(epoch FROM over_at - clock_timestamp()) FROM connections_pace WHERE connection_id = %s"


class SharedPace:
    """See ``ends.pace.Pace``."""

    def __init__(self, connection_id: int, workspace_id: int, rate: Rate) -> None:
        self._row = {"connection": connection_id, "workspace": workspace_id}
        self._rate = rate

    def take(self) -> None:
        """See ``Pace.take``."""
        interval, ahead = self._rate.interval_seconds, self._rate.ahead_seconds
        longest = timedelta(seconds=LONGEST_WAIT_SECONDS + ahead)
        with database.cursor() as cursor:
            cursor.execute(_TAKE, {**self._row, "interval": timedelta(seconds=interval), "longest": longest})
            taken = cursor.fetchone()
            if taken is None:
                cursor.execute(_LEFT, [self._row["connection"]])
                # It may have become shorter meanwhile; who was turned away goes away all the same.
                left = max(float(cursor.fetchone()[0]) - ahead, LONGEST_WAIT_SECONDS * 1.01)
                refuse_long(left)
        # Nobody sleeps on a session.
        give_session_back()
        time.sleep(max(0.0, float(taken[0]) - interval - ahead))

    def pause(self, seconds: float) -> None:
        """See ``Pace.pause``."""
        pause = timedelta(seconds=seconds + self._rate.ahead_seconds)
        with database.cursor() as cursor:
            cursor.execute(_PAUSE, {**self._row, "pause": pause})
