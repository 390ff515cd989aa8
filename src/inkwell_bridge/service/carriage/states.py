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
    ``put ours back`` posts all that the books lack of the order as it is now.
    """

    LEAVE_OUT = "leave out", "Leave it out"
    BY_HAND = "by hand", "Settled by hand in the books"
    ACCEPT_DIFFERENCE = "accept difference", "Accept the difference"
    KEEP_POSTED = "keep posted", "Keep what was posted"
    POST_DIFFERENCE = "post the difference", "Post what the order changed by"
    KEEP_THEIRS = "keep theirs", "Keep what was changed in the books"
    PUT_BACK = "put ours back", "Put the order back as it is"


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


class Reconciles(models.TextChoices):
    """Why source and books of one crossing may differ, each with its own amounts.

    ``withheld``: a tax that a marketplace keeps and remits. ``vouchers``: taxed when they were sold, and deducted from
    what they pay. ``deposits``: tax of what was paid ahead that falls due on its delivery. ``penny``: what the rules
    for a rounding difference settled. ``tax computed``: the books computed another tax for the same line and code.
    ``tax lines``: a tax that stands on a line of its own, whose amount the books count as net. ``cancelled``: the
    source lists the order still, and it came off the books again. ``converted``: what stands in the books in the
    company's own currency, for the source's is another. ``not as money``: money of the source that never comes as
    money, or that another tells of.
    """

    WITHHELD = "withheld", "Withheld by a marketplace"
    VOUCHERS = "vouchers", "Vouchers taxed before"
    DEPOSITS = "deposits", "Tax of deposits not due yet"
    PENNY = "penny", "Settled by the penny rules"
    TAX_COMPUTED = "tax computed", "Tax computed otherwise by the books"
    TAX_LINES = "tax lines", "Tax on lines of its own"
    CANCELLED = "cancelled", "Cancelled after it was posted"
    CONVERTED = "converted", "Converted into the company's own currency"
    NOT_MONEY = "not as money", "Not as money"


ACTIVE_RUN = (RunState.READING, RunState.CARRYING)
