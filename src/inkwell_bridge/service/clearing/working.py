"""Working out the proof of an account."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date
from decimal import Decimal
from typing import Any

import structlog
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.clearing import (
    AccountProof,
    AccountRead,
    Item,
    Standing,
    differences_of,
    prove_account,
    standing_of,
)
from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.text import fit
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.asked_work import WorkState
from inkwell_bridge.service.clearing import posted, standing
from inkwell_bridge.service.clearing.accounts import Purpose, Use, currency_of, use_of
from inkwell_bridge.service.clearing.at_bank import at_bank
from inkwell_bridge.service.clearing.at_provider import NotPaidOut, at_provider, read_not_paid_out
from inkwell_bridge.service.clearing.differing import differing
from inkwell_bridge.service.clearing.entries import Stopped, read_account
from inkwell_bridge.service.clearing.models import ClearingProof, ReadEntry

log = structlog.get_logger("inkwell.clearing")

ZERO = Decimal(0)
# So many are named one by one; all are counted and summed.
MOST_NAMED = 1_000


def work(proof: ClearingProof) -> None:
    """Read what the books have on the account, and hold it against what was posted from here; begun again, it comes to
    the same. The books are only read.

    Raises:
        EndError: they do not answer.
    """
    if not proof.while_active.update(state=WorkState.RUNNING, done=0, trouble=""):
        return
    use = use_of(proof.books, proof.account)
    try:
        there = read_account(proof, currency_of(proof.books))
        not_paid_out = read_not_paid_out(proof, use.cleared_by, there.currency) if use.cleared_by else None
    except (Stopped, EndError) as error:
        # Whatever was read so far is of no use to anybody.
        ReadEntry.objects.filter(proof=proof).delete()
        if isinstance(error, Stopped):
            return
        raise
    # One moment for all that is said of our side.
    with transaction.atomic():
        posted.gather(proof)
        result, proves = proved(proof, there, use, not_paid_out)
        ReadEntry.objects.filter(proof=proof).delete()
        proof.while_active.update(state=WorkState.ENDED, ended_at=timezone.now(), result=result, proves=proves)
    log.info("clearing.proved", workspace=proof.workspace_id, proof=proof.pk, proves=proves)


def proved(
    proof: ClearingProof, there: AccountRead, use: Use, not_paid_out: NotPaidOut | None
) -> tuple[dict[str, Any], bool]:  # fmt: skip
    """What is kept of the proof, and whether it proves."""
    named: list[Item] = []
    differences = differences_of(_kept(differing(proof), named))
    found = prove_account(there, posted.moved_by_day(proof, use.cleared_by), differences)
    stands = _standing(proof, found, use.purposes)
    said = {**found.model_dump(), "differing": [one.model_dump() for one in named]}
    if stands is not None:
        said["standing"] = stands.model_dump()
    beside = at_bank(proof, found)
    if beside is not None:
        said["at_bank"] = beside.model_dump()
    if not_paid_out is not None and stands is not None:
        said["at_provider"] = at_provider(proof, not_paid_out).model_dump()
    return fit(_written(said, there.currency)), found.proves and not (stands and stands.not_accounted_for)


def _kept(items: Iterable[Item], named: list[Item]) -> Iterator[Item]:
    for item in items:
        if len(named) < MOST_NAMED:
            named.append(item)
        yield item


def _standing(proof: ClearingProof, found: AccountProof, purposes: set[Purpose]) -> Standing | None:
    """What stands there, for the accounts of which that is known item by item."""
    # Money that comes straight to the bank waits for no payout.
    if Purpose.CLEARING in purposes or purposes == {Purpose.TENDER}:
        standing.gather_on_clearing(proof)
        other = posted.of_other_journals()
    elif Purpose.ON_ITS_WAY in purposes:
        standing.gather_on_its_way(proof)
        other = ZERO
    else:
        return None
    return standing_of(
        standing.sums_by_day(), standing.oldest(MOST_NAMED), on=proof.last, closing=found.closing,
        from_elsewhere=found.opening - posted.before(proof.first), other_journals=other,
    )  # fmt: skip


def _written(said: Any, currency: str) -> Any:
    """As JSON values, amounts with the digits of the currency; books may have more, and then all of them are shown."""
    match said:
        case Decimal():
            return f"{_in_digits(said, currency):f}"
        case dict():
            return {str(name): _written(value, currency) for name, value in said.items()}
        case list() | tuple():
            return [_written(value, currency) for value in said]
        case date():
            return said.isoformat()
    return said


def _in_digits(amount: Decimal, currency: str) -> Decimal:
    try:
        return exact(amount, currency)
    except NotExact:
        return amount.normalize()
