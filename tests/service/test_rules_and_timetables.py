"""Rulebooks and timetables over the API."""

from __future__ import annotations

import psycopg
import pytest

from inkwell_bridge.client import Conflict, Invalid, NotFound
from inkwell_bridge.demo.facts import rulebook_text
from tests.support.world import BRIDGE, HTTP, World, invoices_alone, wait_for


def test_a_broken_rulebook_names_file_line_and_expectation(world: World) -> None:
    """And no draft is kept of it."""
    with pytest.raises(Invalid) as caught:
        world.calls.bridge(BRIDGE).write_rulebook(
            rulebook_text().replace("arrive: posted", "arrive: someday", 1), file="uk.yaml"
        )
    (item,) = caught.value.problem.errors
    assert (item.line, item.detail) == (
        7, "uk.yaml, line 7: /orders/arrive: expected one of posted, draft, got 'someday'",
    )  # fmt: skip
    assert [version.number for version in world.calls.bridge(BRIDGE).rulebooks()] == [1]


def test_a_rulebook_that_names_an_unknown_account_can_be_drafted_but_not_published(world: World) -> None:
    """The draft shows what is wrong; publishing is refused with the line."""
    calls = world.calls.bridge(BRIDGE)
    draft = calls.write_rulebook(rulebook_text().replace('"4000"', '"4050"'))
    assert [(finding.id, finding.line) for finding in draft.findings] == [("REF-E001", 18)]
    with pytest.raises(Invalid) as caught:
        calls.publish_rulebook(draft.number)
    (item,) = caught.value.problem.errors
    assert "line 18: account 4050 for sales is not in the books" in item.detail
    assert calls.read().rulebook_in_force == 1


def test_a_published_rulebook_never_changes(world: World) -> None:
    """It cannot be published again, and a new draft gets a new number."""
    calls = world.calls.bridge(BRIDGE)
    with pytest.raises(Conflict, match="Version 1 is published already"):
        calls.publish_rulebook(1)
    assert calls.write_rulebook(rulebook_text()).number == 2
    assert calls.rulebook(1).text == invoices_alone()


def test_a_draft_comes_into_force_when_it_is_published(world: World) -> None:
    """Newest published wins, and what was held can be released under it."""
    world.run()
    assert {hold.cause: hold.count for hold in world.calls.today().holds} == {"tax-class-unmapped": 2}
    calls = world.calls.bridge(BRIDGE)
    mended = rulebook_text().replace("    zero: Z00", "    zero: Z00\n    reduced: R05")
    calls.publish_rulebook(calls.write_rulebook(mended).number)
    assert world.calls.release(cause="tax-class-unmapped") == 2
    world.settled()
    assert world.calls.today().holds == []
    assert len(world.invoices()) == 57


def test_a_bridge_that_is_not_ready_says_what_is_missing(world: World) -> None:
    """Its lane off; or no rulebook."""
    calls = world.calls.bridge(BRIDGE)
    calls.switch_lane("orders", on=False)
    with pytest.raises(Conflict, match=r"Every lane of .* is off"):
        calls.run()
    world.calls.create_bridge(slug="bare", name="Bare", source="web-shop", books="uk-books", company="marrowby-uk")
    assert world.calls.bridge("bare").read().lanes[0].on is False
    world.calls.bridge("bare").switch_lane("orders", on=True)
    with pytest.raises(Conflict, match="no published rulebook"):
        world.calls.bridge("bare").run()


def test_a_timetable_is_set_shown_and_removed(world: World) -> None:
    """Daily by the company's wall clock: the demo's clock stands at 20:00 on 31 October."""
    calls = world.calls.bridge(BRIDGE)
    daily = calls.set_timetable(daily_at="18:30")
    assert (daily.rule, daily.time_zone) == ("FREQ=DAILY;BYHOUR=18;BYMINUTE=30;BYSECOND=0", "Europe/London")
    assert daily.next_at.hour == 18
    assert daily.words == "daily at 18:30 (Europe/London)"
    assert [f"{one:%d %H:%M}" for one in daily.coming[:3]] == ["01 18:30", "02 18:30", "03 18:30"]
    assert (calls.timetable().coming[0], len(daily.coming)) == (daily.next_at, 10)
    assert calls.set_timetable(every_minutes=15).rule == "FREQ=MINUTELY;INTERVAL=15"
    assert calls.read().timetable is not None
    calls.remove_timetable()
    with pytest.raises(NotFound):
        calls.timetable()


def test_a_timetable_in_words_in_fields_and_as_rules_is_the_same(world: World) -> None:
    """Whichever way it is given, it comes back in all three."""
    calls = world.calls.bridge(BRIDGE)
    words = (
        "every 30 minutes between 08:00 and 18:00 on weekdays; from 20 November 2026 to 31 December 2026 every 5 "
        "minutes; not on 25 December 2026 (Europe/London)"
    )
    said = calls.set_timetable(words)
    assert (said.words, said.table["pauses"]) == (words, [{"first": "2026-12-25", "last": "2026-12-25"}])
    assert said.table["times"] == {
        "every_minutes": 30, "between": {"first": "08:00", "last": "18:00"}, "at": [], "weekdays": [0, 1, 2, 3, 4],
    }  # fmt: skip
    for same in (calls.set_timetable(table=said.table), calls.set_timetable(rule=said.rule), calls.timetable()):
        assert (same.words, same.rule, same.table, same.coming) == (words, said.rule, said.table, said.coming)
    assert said.rule.splitlines() == [
        "RRULE:FREQ=MINUTELY;INTERVAL=30;BYDAY=MO,TU,WE,TH,FR;BYHOUR=8,9,10,11,12,13,14,15,16,17",
        "RRULE:FREQ=MINUTELY;INTERVAL=30;BYDAY=MO,TU,WE,TH,FR;BYHOUR=18;BYMINUTE=0",
        "DTSTART:20261120T000000",
        "RRULE:FREQ=MINUTELY;INTERVAL=5;UNTIL=20261231T235959",
        "FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20261225T000000Z/20261226T000000Z",
    ]
    tried = calls.try_timetable("daily at 9am", time_zone="Asia/Tokyo")
    assert (tried.words, tried.coming[0].isoformat()) == ("daily at 09:00 (Asia/Tokyo)", "2026-11-01T00:00:00+00:00")
    assert calls.timetable().words == words


@pytest.mark.parametrize(
    "wrong",
    [{}, {"every_minutes": 0}, {"daily_at": "25:00"}, {"every_minutes": 5, "daily_at": "18:30"},
     {"daily_at": "18:30", "time_zone": "Moon/Base"}, {"every_minutes": 7}, {"words": "now and then"},
     {"rule": "FREQ=MONTHLY"}, {"table": {"times": {}}}, {"table": {"times": {"at": ["18:30:10"]}}},
     {"table": {"times": {"every_minutes": 5}, "seasons": [{"days": {"first": "2026-12-31", "last": "2026-12-01"},
                                                             "times": {"every_minutes": 5}}]}}],
)  # fmt: skip
def test_a_timetable_that_makes_no_sense_is_refused(world: World, wrong: dict[str, object]) -> None:
    """With what was expected."""
    url = f"{world.stack.address}/api/v1/workspaces/{world.slug}/bridges/{BRIDGE}/timetable"
    response = HTTP.put(url, json=wrong, headers={"Authorization": f"Bearer {world.token}"})
    assert response.status_code == 400
    assert response.json()["errors"]


def test_a_bridge_on_a_timetable_runs_by_itself(world: World) -> None:
    """When its time has come, once, however long nothing ran."""
    world.calls.bridge(BRIDGE).set_timetable(every_minutes=60)
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        db.execute("UPDATE bridges_timetable SET next_at = next_at - interval '5 hours' WHERE workspace_id = "
                   "(SELECT id FROM people_workspace WHERE slug = %s)", [world.slug])  # fmt: skip
    run = wait_for(lambda: next(iter(world.calls.runs()), None), seconds=30, what="the timetable")
    assert (run.by_timetable, run.started_by) == (True, "")
    assert world.ended(run).counts.carried == 55
    assert len(list(world.calls.runs())) == 1
    coming = world.calls.bridge(BRIDGE).timetable().next_at
    assert coming > run.started_at
    entry = next(entry for entry in world.calls.trail() if entry.action == "run.started")
    assert entry.person == ""
