"""What the bank's lines say of people is kept no longer than anything else that tells of them."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db import connection

from inkwell_bridge.service import clock

STEP = 5_000
# A line is recognised by its digest, so it stays known without its words; amount, day and the bank's own reference are
# the proof of what was posted.
_FORGET = """
    UPDATE bank_bankline SET name = '', text = '' WHERE id IN (
        SELECT id FROM bank_bankline
        WHERE booked_on < %(before)s AND state <> 'open' AND (name <> '' OR text <> '')
        ORDER BY booked_on LIMIT %(step)s)
"""


def forget_words() -> int:
    """Blank names and texts of lines of long ago whose purpose is known; those that are open still say who paid.

    In steps, each a statement of its own, so that statements can be read meanwhile. Answers how many.
    """
    before = clock.now().date() - timedelta(days=settings.KEEP_DAYS)
    gone = 0
    with connection.cursor() as cursor:
        while True:
            cursor.execute(_FORGET, {"before": before, "step": STEP})
            gone += cursor.rowcount
            if cursor.rowcount < STEP:
                return gone
