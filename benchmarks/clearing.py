"""A clearing account with a million receipts: proved, beside one plain sum of the same receipts by day.

    ./inkwell bench clearing [RECEIPTS]

The receipts and the books' entries of them are generated straight into the tables; one in a thousand has another amount
there. The floor is one SQL aggregate over the receipts' own JSON, in the same run. Reading the books' entries page by
page is not part of it: that goes at the pace of the end. Prints the ratio and the most memory that was taken.
"""

from __future__ import annotations

import sys

from benchmarks.installation import OWNER, PASSWORD, installation

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

RECEIPTS = 1_000_000
_FILL = """
    INSERT INTO carriage_document (workspace_id, connection_id, role, external_reference, amendment, state, planned,
        reasons, record, contact_id, books_id, books_number, link, currency, date)
    SELECT {workspace}, {books}, 'payment', 'INK:web-shop:' || n || ':payment:1', 0, 'proved', '{{}}', '[]',
           jsonb_build_object('id', n::text, 'standing', 'posted', 'document', jsonb_build_object(
               'role', 'payment', 'account', '1250', 'currency', 'GBP', 'transaction', 'wg_' || n,
               'date', (date '2026-10-01' + n %% 31)::text, 'amount', ((n %% 9973 + 1) / 100.0)::numeric(12, 2)::text)),
           '', n::text, 'RC-' || n, '', 'GBP', date '2026-10-01' + n %% 31
    FROM generate_series(1, {receipts}) AS n
"""
_ENTRIES = """
    INSERT INTO clearing_readentry (workspace_id, proof_id, family, books_id, number, date, reference, text, amount)
    SELECT workspace_id, {proof}, 'receipts', books_id, books_number, date, external_reference, '',
           (record #>> '{{document,amount}}')::numeric + CASE WHEN books_id::int %% 1000 = 0 THEN 1 ELSE 0 END
    FROM carriage_document WHERE connection_id = {books} AND role = 'payment'
"""
_FLOOR = """
    SELECT (record #>> '{{document,date}}')::date, sum((record #>> '{{document,amount}}')::numeric)
    FROM carriage_document WHERE connection_id = {books} AND role = 'payment' GROUP BY 1
"""
# In a process of its own, as a worker works it out.
_PROVE = """
import resource, time
from datetime import date
from decimal import Decimal
from django.db import connection, transaction
from django.db.models import Sum
from django.utils import timezone
from inkwell_bridge.core.clearing import AccountRead
from inkwell_bridge.service.clearing import posted, working
from inkwell_bridge.service.clearing.models import ClearingProof, ReadEntry
from inkwell_bridge.service.connections.models import Connection
books = Connection.objects.select_related("workspace").get(slug="uk-books")
first, last = date(2026, 10, 1), date(2026, 10, 31)
proof = ClearingProof.objects.create(workspace=books.workspace, books=books, account="1250", first=first, last=last,
                                     asked_at=timezone.now())
names = {{"workspace": books.workspace_id, "books": books.pk, "proof": proof.pk, "receipts": {receipts}}}
with connection.cursor() as cursor:
    for statement in ({fill!r}, {entries!r}):
        cursor.execute(statement.format(**names).replace("%%", "%"))
    cursor.execute("VACUUM ANALYZE carriage_document")
    cursor.execute("ANALYZE clearing_readentry")
    begun = time.monotonic()
    cursor.execute({floor!r}.format(**names))
    cursor.fetchall()
    floor = time.monotonic() - begun
moved = dict(ReadEntry.objects.filter(proof=proof).order_by().values_list("date").annotate(s=Sum("amount")))
there = AccountRead(account="1250", currency="GBP", first=first, last=last, opening=Decimal(0),
                    closing=sum(moved.values()), moved=moved)
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
begun = time.monotonic()
with transaction.atomic():
    posted.gather(proof)
    result, _ = working.proved(proof, there)
seconds = time.monotonic() - begun
most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
count = sum(one["count"] for one in result["differences"])
print(floor, seconds, count, result["closing"], most // 1024, (most - before) // 1024)
"""


def main() -> None:
    """Fill the tables, sum them plainly, and prove the account."""
    receipts = int(sys.argv[1]) if len(sys.argv) > 1 else RECEIPTS
    with installation() as (stack, _):
        floor, seconds, count, closing, most, more = _proved(stack, receipts)
        print(f"{receipts:,} receipts of {closing} GBP; floor: one plain sum by day, {floor:.2f} s")
        print(f"proved: {seconds:.2f} s, {seconds / floor:.1f} times the floor; {count:,} items differ; "
              f"{most} MiB, {more} of them for this")  # fmt: skip


def _proved(stack: Stack, receipts: int) -> tuple[float, float, int, str, int, int]:
    slug = "clearing"
    token = demo_client.open_workspace(stack, PASSWORD, workspace=slug, email=OWNER)
    calls = Client(stack.address, token=token).workspace(slug)
    demo_client.fill_standins(stack.standin)
    demo_client.set_up(stack, calls)
    script = _PROVE.format(receipts=receipts, fill=_FILL, entries=_ENTRIES, floor=_FLOOR)
    floor, seconds, count, closing, most, more = stack.administer("shell", "-c", script).split()[-6:]
    return float(floor), float(seconds), int(count), closing, int(most), int(more)


if __name__ == "__main__":
    main()
