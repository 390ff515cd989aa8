"""What is older than it is kept goes; never what something was posted from."""

from __future__ import annotations

import os
import subprocess
import sys

import psycopg
import pytest

from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_bank import account, lines, of_payout, take, with_bank
from tests.support.statements import camt_entry
from tests.support.world import World, new_world, shop_order

FIRST = "MW-10003"
REMOVE = (
    "import django; django.setup()\n"
    "from inkwell_bridge.service.carriage.sweeping import remove_old\n"
    "while remove_old(): pass\n"
    "from inkwell_bridge.service.incoming import named_documents\n"
    "from inkwell_bridge.service.notices import troubles\n"
    "print(named_documents.remove_old(), troubles.remove_old())\n"
)
FORGET = (
    "import django; django.setup()\n"
    "from inkwell_bridge.service.bank.forgetting import forget_words\n"
    "print(forget_words())\n"
)

FORGET_OPENINGS = (
    "import django; django.setup()\nfrom inkwell_bridge.service.requests.pace import forget\nprint(forget())\n"
)


@pytest.fixture
def old(stack: Stack, owner: str) -> World:
    """An order that was carried, changed in a tag and carried again; all of it a year and a half ago."""
    world = new_world(stack, owner)
    world.put_orders(shop_order(FIRST, labels=["first"]), reset=True)
    world.run()
    for number, tag in enumerate(("second", "third"), start=10):
        world.put_orders(shop_order(FIRST, labels=[tag], last_change=f"2026-10-30T{number}:00:00Z"))
        world.run()
    with psycopg.connect(stack.environment["DATABASE_URL"], autocommit=True) as db:
        (workspace,) = db.execute("SELECT id FROM people_workspace WHERE slug = %s", [world.slug]).fetchone() or (0,)
        db.execute("ALTER TABLE carriage_snapshot DISABLE TRIGGER carriage_snapshot_kept")
        for table, column in (("snapshot", "fetched_at"), ("exchange", "at"), ("run", "ended_at")):
            db.execute(
                f"UPDATE carriage_{table} SET {column} = now() - interval '500 days' WHERE workspace_id = %s",
                [workspace],
            )
        db.execute("ALTER TABLE carriage_snapshot ENABLE TRIGGER carriage_snapshot_kept")
    return world


def rows(world: World, query: str) -> list[tuple[object, ...]]:
    """What the database answers, of this client alone."""
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        (workspace,) = db.execute("SELECT id FROM people_workspace WHERE slug = %s", [world.slug]).fetchone() or (0,)
        return db.execute(query, [workspace]).fetchall()


def remove(world: World, script: str = REMOVE, **changed: str) -> str:
    """Let upkeep's step do its work, in a process of its own; answers what it says."""
    environment = {**os.environ, **world.stack.environment, **changed}
    done = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_the_snapshot_in_between_goes_and_the_others_stay(old: World) -> None:
    """Three were fetched: what was posted from and what it says now are kept, with the history and the documents."""
    before = old.calls.crossing(next(iter(old.calls.crossings())).id)
    assert len(rows(old, "SELECT id FROM carriage_snapshot WHERE workspace_id = %s")) == 3
    remove(old)
    kept = rows(
        old,
        "SELECT snapshot.id = crossing.snapshot_id OR EXISTS (SELECT 1 FROM carriage_document AS made "
        "WHERE made.snapshot_id = snapshot.id) FROM carriage_snapshot AS snapshot "
        "JOIN carriage_crossing AS crossing ON crossing.source_id = snapshot.source_id "
        "AND crossing.workspace_id = snapshot.workspace_id WHERE snapshot.workspace_id = %s",
    )
    assert kept == [(True,), (True,)]
    assert rows(old, "SELECT id FROM carriage_exchange WHERE workspace_id = %s") == []
    assert rows(old, "SELECT id FROM carriage_runentry WHERE workspace_id = %s") == []
    after = old.calls.crossing(before.id)
    assert (after.history, after.reasons, after.documents) == (before.history, before.reasons, before.documents)


OF_CALLS_AND_NOTICES = (
    """INSERT INTO incoming_incomingcall (workspace_id, connection_id, call_id, kind, number, happened_at, received_at,
                                             state)
       SELECT %(workspace)s, id, %(name)s, 'orders', 'MW-1', now(), now() - %(age)s::interval, 'done'
       FROM connections_connection WHERE workspace_id = %(workspace)s AND slug = 'web-shop'""",
    """INSERT INTO notices_trouble (workspace_id, key, kind, lane, cause, count, amounts, oldest, text, tries,
                                    opened_at, changed_at, ended_at)
       VALUES (%(workspace)s, %(name)s::text, 'end', '', '', 0, '{}', '', %(name)s::text, 0, now(), now(),
               now() - %(age)s::interval)""",
    """INSERT INTO notices_notice (workspace_id, rule_id, subject, text, event, state, made_at, tries, failure)
       SELECT %(workspace)s, id, %(name)s, '', '{}', 'sent', now() - %(age)s::interval, 1, ''
       FROM notices_noticerule WHERE workspace_id = %(workspace)s""",
)


def test_calls_troubles_and_messages_of_long_ago_go(stack: Stack, owner: str) -> None:
    """500 days old they go, 300 days old they stay, for 400 is how long things are kept."""
    world = new_world(stack, owner)
    world.calls.add_notice_rule(channel="mail", at_once=False, digest_at="17:00")
    (found,) = rows(world, "SELECT id FROM people_workspace WHERE id = %s")
    with psycopg.connect(stack.environment["DATABASE_URL"]) as db:
        for name, age in (("gone", "500 days"), ("kept", "300 days")):
            for statement in OF_CALLS_AND_NOTICES:
                db.execute(statement, {"workspace": found[0], "name": name, "age": age})
    remove(world)
    assert rows(world, "SELECT call_id FROM incoming_incomingcall WHERE workspace_id = %s") == [("kept",)]
    assert rows(world, "SELECT text FROM notices_trouble WHERE workspace_id = %s") == [("kept",)]
    assert rows(world, "SELECT subject FROM notices_notice WHERE workspace_id = %s") == [("kept",)]


def test_lines_of_long_ago_say_no_more_who_paid(stack: Stack, owner: str) -> None:
    """It is the 31st: kept for 23 days, of lines before the 8th what is matched or excluded is blank. A month's
    statement that has them all again has nothing new but its own, for lines are recognised without their words."""
    world = with_bank(stack, owner)
    wages = camt_entry("2026-10-07", "-650.00", reference="B7", text="WAGES OF", name="Ottilie Marsh")
    unknown = camt_entry("2026-10-07", "5.00", text="FROM ROWAN")
    cash = camt_entry("2026-10-08", "-20.00", text="CASH", name="Rowan Pell")
    take(world, of_payout(1, "13.94"), wages, unknown, cash, last="2026-10-15")
    world.settled()
    account(world).exclude([one.id for one in lines(world) if one.amount < 0], "No payouts")
    remove(world, FORGET, INKWELL_KEEP_DAYS="23")

    def words() -> dict[str, tuple[str, str]]:
        return {str(one.amount): (one.name, one.text) for one in account(world).lines()}

    forgotten = {"13.94": ("", ""), "-650.00": ("", ""), "5.00": ("", "FROM ROWAN"), "-20.00": ("Rowan Pell", "CASH")}
    assert words() == forgotten
    again = take(world, of_payout(1, "13.94"), wages, unknown, cash, camt_entry("2026-10-20", "1.00", text="NEW"),
                 name="month.xml")  # fmt: skip
    assert (again.lines, again.new_lines) == (5, 1)
    assert words() == forgotten | {"1.00": ("", "NEW")}


def test_openings_of_payment_links_are_forgotten_after_an_hour(stack: Stack, owner: str) -> None:
    """Of two hours ago they go, of half an hour ago they stay."""
    world = new_world(stack, owner)
    with psycopg.connect(stack.environment["DATABASE_URL"], autocommit=True) as db:
        for digest, ago in (("gone", "2 hours"), ("kept", "30 minutes")):
            db.execute("INSERT INTO requests_openings (digest, minute, count) VALUES (%s, now() - %s::interval, 1)",
                       [f"{digest} {world.slug}", ago])  # fmt: skip
        remove(world, FORGET_OPENINGS)
        found = db.execute("SELECT digest FROM requests_openings WHERE digest LIKE %s", [f"% {world.slug}"]).fetchall()
    assert found == [(f"kept {world.slug}",)]


def test_a_snapshot_is_removed_in_no_other_way(old: World) -> None:
    """Neither changed nor deleted, by whoever may write to the database."""
    with psycopg.connect(old.stack.environment["DATABASE_URL"]) as db:
        for statement in ("DELETE FROM carriage_snapshot", "UPDATE carriage_snapshot SET number = 'x'"):
            with pytest.raises(psycopg.errors.RaiseException, match="it is kept as it was written"):
                db.execute(statement)
            db.rollback()
