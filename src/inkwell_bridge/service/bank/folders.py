"""Statements that are dropped into a folder: ``<bank folder>/<workspace>/<account>``, read as they come.

A file is taken or refused whole, and then lies in ``taken`` or ``refused`` beside the others. Where nothing can be
moved, nothing is read: the same file would be refused over and over.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path

import structlog
from django.conf import settings

from inkwell_bridge.core.text import fit_line
from inkwell_bridge.service import queue
from inkwell_bridge.service.bank.matching import match_sure
from inkwell_bridge.service.bank.models import BankAccount
from inkwell_bridge.service.bank.reading import StatementRefused, take

log = structlog.get_logger("inkwell.bank")

TAKEN, REFUSED = "taken", "refused"
# Whoever drops a file may still be writing it.
SETTLED_SECONDS = 5.0
LARGEST_FILE = 2_000_000_000


def look() -> None:
    """Have accounts whose folders hold something read; a job for each, unless one is asked for already."""
    if not settings.BANK_FOLDER.is_dir():
        return
    accounts = BankAccount.objects.select_related("workspace").all()
    due = [one.pk for one in accounts if next(waiting(one), None) is not None]
    asked = queue.pending(queue.READ_STATEMENTS, "account_id", due) if due else set()
    calls = [queue.Call(arguments={"account_id": key}, lock=f"bank folder {key}") for key in due if key not in asked]
    queue.defer(queue.READ_STATEMENTS, calls)


def folder_of(account: BankAccount) -> Path:
    """Where the statements of an account are dropped. Both names are of letters, digits and dashes."""
    found: Path = settings.BANK_FOLDER / account.workspace.slug / account.slug
    return found


def waiting(account: BankAccount) -> Iterator[Path]:
    """The files that lie there, the oldest first: no links, which may lead anywhere, and none that is still
    written."""
    if not os.access(folder_of(account), os.W_OK):
        return
    try:
        found = sorted(folder_of(account).iterdir(), key=lambda one: one.lstat().st_mtime)
    except OSError:
        return
    now = time.time()
    for path in found:
        try:
            about = path.lstat()
        except OSError:
            continue
        is_file = path.is_file() and not path.is_symlink() and not path.name.startswith(".")
        if is_file and now - about.st_mtime >= SETTLED_SECONDS and about.st_size <= LARGEST_FILE:
            yield path


def read_waiting(account: BankAccount) -> None:
    """Read every file that lies there; one that is refused stops no other."""
    for path in list(waiting(account)):
        name = fit_line(os.fsencode(path.name).decode("utf-8", "replace"), 200)
        try:
            with path.open("rb") as stream:
                take(account, name, stream, None)
        except StatementRefused as refused:
            log.warning("statement.refused", account=account.pk, why=str(refused))
            _move(path, REFUSED)
        except OSError as error:
            log.warning("statement.unreadable", account=account.pk, why=str(error))
        else:
            _move(path, TAKEN)
            match_sure(account)


def _move(path: Path, where: str) -> None:
    """Put a file beside the others of its kind; one of the same name that lies there stays."""
    folder = path.parent / where
    try:
        folder.mkdir(exist_ok=True)
        place = folder / path.name
        if place.exists():
            place = folder / f"{time.time_ns()}-{path.name}"
        path.rename(place)
    except OSError as error:
        log.warning("statement.stays", why=str(error))
