"""A proved account beside the statements of its bank, where some were read."""

from __future__ import annotations

from decimal import Decimal

from django.db.models import Sum

from inkwell_bridge.core.clearing import AccountProof, AtBank, beside_bank
from inkwell_bridge.service.bank.models import BankAccount, BankLine, LineState, Statement
from inkwell_bridge.service.clearing.models import ClearingProof

ZERO = Decimal(0)


def at_bank(proof: ClearingProof, found: AccountProof) -> AtBank | None:
    """The account at the end of the last day that a statement covers; nothing where none ends within the days of the
    proof. Three statements."""
    account = BankAccount.objects.filter(books=proof.books_id, ledger_account=proof.account).first()
    if account is None or account.currency != found.currency:
        return None
    newest = (
        Statement.objects.filter(account=account, complete=True, closing__isnull=False,
                                 last_day__range=(proof.first, proof.last))
        .order_by("-last_day", "-id").first()
    )  # fmt: skip
    if newest is None or newest.last_day is None or newest.closing is None:
        return None
    rows = BankLine.objects.filter(account=account, booked_on__range=(proof.first, newest.last_day))
    sums = dict(rows.order_by().values_list("state").annotate(come_to=Sum("amount")))
    until = [one.books for one in found.days if one.day <= newest.last_day]
    return beside_bank(
        day=newest.last_day,
        balance=newest.closing,
        matched=sums.get(LineState.MATCHED, ZERO),
        open_lines=sums.get(LineState.OPEN, ZERO),
        excluded_lines=sums.get(LineState.EXCLUDED, ZERO),
        books_opening=found.opening,
        books=until[-1] if until else found.opening,
    )
