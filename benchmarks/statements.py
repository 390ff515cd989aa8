"""A bank statement of half a million lines: taken, beside only copying its lines into a table.

    ./inkwell bench statements [LINES]

The floor is a bare COPY of the same lines, already read, into a table with one index. It is measured in the same run.
Prints lines a second, and the most memory that was taken.
"""

from __future__ import annotations

import sys
import tempfile
import time
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import psycopg
from benchmarks.installation import OWNER, PASSWORD, installation

from inkwell_bridge.client import Client
from inkwell_bridge.core.bank import StatementLine, read_camt
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

LINES = 500_000
FIRST = date(2026, 10, 1)
_ENTRY = (
    '<Ntry><Amt Ccy="GBP">{pounds}.{pence:02}</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts><Cd>BOOK</Cd></Sts>'
    "<BookgDt><Dt>{day}</Dt></BookgDt><AcctSvcrRef>BX{number}</AcctSvcrRef><NtryDtls><TxDtls><RmtInf>"
    "<Ustrd>Order {number} of a shop that sells yarn and dyes</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>\n"
)


def main() -> None:
    """Write the statement, copy its lines, and take it."""
    lines = int(sys.argv[1]) if len(sys.argv) > 1 else LINES
    with tempfile.TemporaryDirectory() as folder, installation() as (stack, db):
        file = Path(folder) / "statement.xml"
        total = _write(file, lines)
        print(f"{lines:,} lines, {file.stat().st_size / 1e6:.0f} MB, {total / 100:,.2f} GBP")
        floor = _floor(db, file)
        print(f"floor: {lines / floor:,.0f} lines a second, copied as they are ({floor:.1f} s)")
        seconds, new, most, more = _taken(stack, file)
        speed = f"{lines / seconds:,.0f} lines a second, {100 * floor / seconds:.0f} % of the floor"
        print(f"taken: {seconds:.1f} s, {speed}; {new:,} new; {most} MiB, {more} of them for this")


def _write(file: Path, lines: int) -> int:
    """The statement; answers what its lines come to, in pence."""
    account, total = facts()["bank"], 0
    with file.open("w", encoding="utf-8") as out:
        sums = [number % 9_973 + 1 for number in range(lines)]
        total = sum(sums)
        out.write(
            '<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><BkToCstmrStmt><Stmt><Id>1</Id>'
            f"<Acct><Id><IBAN>{account['number'].replace(' ', '')}</IBAN></Id><Ccy>GBP</Ccy></Acct>"
        )
        for code, pence in (("OPBD", 0), ("CLBD", total)):
            out.write(
                f"<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp>"
                f'<Amt Ccy="GBP">{pence // 100}.{pence % 100:02}</Amt><CdtDbtInd>CRDT</CdtDbtInd></Bal>'
            )
        for number, pence in enumerate(sums):
            day = FIRST + timedelta(days=number * 31 // lines)
            out.write(_ENTRY.format(pounds=pence // 100, pence=pence % 100, day=day, number=number))
        out.write("</Stmt></BkToCstmrStmt></Document>")
    return total


def _floor(db: psycopg.Connection[Any], file: Path) -> float:
    with file.open("rb") as stream:
        rows = [
            (one.booked_on, one.amount, one.reference, one.text)
            for one in read_camt(stream)
            if isinstance(one, StatementLine)
        ]
    db.execute("CREATE TABLE floor (day date, amount numeric(20, 4), reference text PRIMARY KEY, text text)")
    begun = time.monotonic()
    with db.cursor() as cursor, cursor.copy("COPY floor FROM STDIN") as copy:
        for row in rows:
            copy.write_row(row)
    return time.monotonic() - begun


# In a process of its own, as a worker takes it.
_TAKE = """
import resource, time
from inkwell_bridge.service.bank.models import BankAccount
from inkwell_bridge.service.bank.reading import take
account = BankAccount.objects.select_related("workspace", "books").get()
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
begun = time.monotonic()
with open({file!r}, "rb") as stream:
    taken, _ = take(account, "statement.xml", stream, None)
seconds = time.monotonic() - begun
most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
print(seconds, taken.new_lines, most // 1024, (most - before) // 1024)
"""


def _taken(stack: Stack, file: Path) -> tuple[float, int, int, int]:
    """How long it took, how many lines were new, and the memory of the process, in all and for this (MiB)."""
    slug = "statements"
    token = demo_client.open_workspace(stack, PASSWORD, workspace=slug, email=OWNER)
    calls = Client(stack.address, token=token).workspace(slug)
    demo_client.fill_standins(stack.standin)
    demo_client.set_up(stack, calls)
    demo_client.add_bank_account(calls)
    told = stack.administer("shell", "-c", _TAKE.format(file=str(file)))
    seconds, new, most, more = told.split()[-4:]
    return float(seconds), int(new), int(most), int(more)


if __name__ == "__main__":
    main()
