"""The states of runs, crossings and documents, and the words for what happened to them."""

from __future__ import annotations

from django.db import models


class DocumentState(models.TextChoices):
    """How far one document of a plan has come."""

    WAITING = "waiting", "Waiting"
    DRAFTED = "drafted", "Drafted"
    POSTED = "posted", "Posted"
    PROVED = "proved", "Proved"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    ADOPTED = "adopted", "Adopted"
    CANCELLED = "cancelled", "Cancelled"


class CrossingState(models.TextChoices):
    """What has become of one source document."""

    WAITING = "waiting", "Waiting"
    CARRIED = "carried", "Carried"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    LEFT_OUT = "left out", "Left out"
    ADOPTED = "adopted", "Adopted"


class Trial(models.TextChoices):
    """Whether an order is carried on trial: its drafts stand in the books, or are taken back."""

    NONE = "", "None"
    SENT = "sent", "Sent"
    TAKEN_BACK = "taken back", "Taken back"


class RunPurpose(models.TextChoices):
    """What a run is for."""

    CARRY = "carry", "Carry"
    ADOPT = "adopt", "Adopt"
    TRIAL = "trial", "Trial"


class RunState(models.TextChoices):
    """How far a run has come. A stopped one was ended by a person; what it read is carried all the same."""

    READING = "reading", "Reading"
    CARRYING = "carrying", "Carrying"
    ENDED = "ended", "Ended"
    FAILED = "failed", "Failed"
    STOPPED = "stopped", "Stopped"


class EntryOutcome(models.TextChoices):
    """What a run did with one source document; ``pending`` is not an outcome yet.

    Documents that had not changed are counted on the run and have no entry.
    """

    PENDING = "pending", "Pending"
    WAITING = "waiting", "Waiting"
    CARRIED = "carried", "Carried"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    LEFT_OUT = "left out", "Left out"
    ADOPTED = "adopted", "Adopted"


class DecisionKind(models.TextChoices):
    """What a person may decide for one document that is held.

    ``by hand``: it was entered in the books by hand, so nothing of it crosses. ``accept difference``: what the books
    computed otherwise is settled as a penny would be, whatever its size; and where what was read back is not what was
    planned, these differences stand, and no others. ``keep posted``: what was posted stays, though
    the source document is another by now; a further change of it is asked about again. ``post
    the difference``: the newer version counts, where by rule a person chooses. Of documents that somebody changed in
    the books, once the order changed too: ``keep theirs`` posts what the order changed by and leaves what they changed,
    ``put ours back`` posts all that the books lack of the order as it is now. Of what was found changed, voided or
    deleted there when it was read again, ``put ours back`` posts what the books lack of what was planned, and ``credit
    and reissue`` takes all of it off there and makes it anew.
    """

    LEAVE_OUT = "leave out", "Leave it out"
    BY_HAND = "by hand", "Settled by hand in the books"
    ACCEPT_DIFFERENCE = "accept difference", "Accept the difference"
    KEEP_POSTED = "keep posted", "Keep what was posted"
    POST_DIFFERENCE = "post the difference", "Post what the order changed by"
    KEEP_THEIRS = "keep theirs", "Keep what was changed in the books"
    PUT_BACK = "put ours back", "Put ours back by further documents"
    REISSUE = "credit and reissue", "Credit what stands there, and make it anew"


class EventKind(models.TextChoices):
    """What happened to a crossing."""

    STAGED = "staged", "Read at the origin"
    CHANGED = "changed", "Changed at the origin"
    TOLD = "told", "Told of money"
    READ = "read", "Read again in the books"
    WAITING = "waiting", "Waits"
    POSTED = "posted", "Posted"
    PROVED = "proved", "Proved"
    CARRIED = "carried", "Carried"
    HELD = "held", "Held"
    DIFFERS = "differs", "Differs"
    LEFT_OUT = "left out", "Left out"
    ADOPTED = "adopted", "Adopted"
    REPORTED = "reported", "Written back"
    RELEASED = "released", "Released"
    WITHDRAWN = "withdrawn", "Trial taken back"
    REQUEUED = "requeued", "Queued anew by upkeep"
    DECIDED = "decided", "Decided by a person"
    AMENDED = "amended", "Amended"
    GONE = "gone", "Gone at the sales side"
    THERE_AGAIN = "back", "There again at the sales side"
    AFTER_CLOSING = "closed", "Changed a month that is closed"


ACTIVE_RUN = (RunState.READING, RunState.CARRYING)
