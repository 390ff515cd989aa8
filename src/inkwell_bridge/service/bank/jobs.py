"""The jobs that read statements which were dropped into a folder, and match what is sure."""

from __future__ import annotations

from collections.abc import Callable

from django.db import InterfaceError, OperationalError
from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.bank.folders import read_waiting
from inkwell_bridge.service.bank.matching import match_sure
from inkwell_bridge.service.bank.models import BankAccount
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause


@app.task(name=queue.READ_STATEMENTS, queue=queue.READING, retry=RetryWhenAsked())
def read_statements(*, account_id: int) -> None:
    """Read what lies in the folder of one account."""
    _at(account_id, read_waiting)


@app.task(name=queue.MATCH_LINES, queue=queue.READING, retry=RetryWhenAsked())
def match_lines(*, account_id: int) -> None:
    """Match what is sure on one account, now that more is awaited there."""
    _at(account_id, match_sure)


def _at(account_id: int, work: Callable[[BankAccount], object]) -> None:
    """Do ``work`` at an account; at one that was removed meanwhile there is none."""
    account = BankAccount.objects.select_related("workspace", "books").filter(pk=account_id).first()
    if account is None:
        return
    try:
        work(account)
    except (OperationalError, InterfaceError) as error:
        raise TryLater("The database went away.", after_pause(0)) from error
