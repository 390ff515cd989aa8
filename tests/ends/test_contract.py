"""What every end must do, asked of each through real HTTP."""

from __future__ import annotations

import pytest

from inkwell_bridge.ends.contract import kinds
from inkwell_bridge.ends.errors import Away, Busy, EndError, NotOffered, OutcomeUnknown, Refused
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.launch.places import LOOPBACK
from tests.support.bench import Bench
from tests.support.ends import BENCHES, PEERS
from tests.support.world import World


@pytest.fixture(params=sorted(BENCHES))
def bench(request: pytest.FixtureRequest) -> Bench:
    """Each kind of end in turn."""
    return BENCHES[request.param]


def test_every_kind_that_is_installed_is_on_the_bench() -> None:
    """A new dialect joins the suite, or this fails."""
    assert sorted(kinds()) == sorted({*BENCHES, *PEERS})


def test_it_describes_itself(bench: Bench) -> None:
    """Its form names secrets as such, and its capabilities can be written as JSON."""
    kind = kinds()[bench.kind]
    form = kind.credentials_schema
    assert set(bench.credentials) <= set(form["properties"])
    assert form["properties"][bench.secret]["writeOnly"]
    assert form["additionalProperties"] is False
    assert kind.capabilities.as_json()


def test_a_check_says_whose_it_is_and_what_we_may_do(world: World, bench: Bench) -> None:
    """Company, currency, time zone, and every right by name."""
    check = bench.open(world).check()
    assert (check.currency, check.missing) == (bench.currency, ())
    assert check.time_zone.startswith(bench.time_zone)
    assert check.company.startswith("Marrowby")


def test_each_missing_right_is_named_with_its_remedy(world: World, bench: Bench) -> None:
    """What to change at the other end."""
    bench.take_rights(world)
    check = bench.open(world).check()
    missing = {permission.name for permission in check.missing}
    assert missing >= set(bench.rights or (permission.name for permission in check.permissions)) != set()
    assert all(permission.remedy for permission in check.missing)


def test_wrong_credentials_are_refused_without_naming_them(world: World, bench: Bench) -> None:
    """The error says why, and holds no secret."""
    with pytest.raises(Refused) as caught:
        bench.open(world, **{bench.secret: "not-the-right-one"}).check()
    assert caught.value.why == "credentials"
    assert "not-the-right-one" not in str(caught.value)


@pytest.mark.parametrize(("kind", "why", "said"), [
    ("revoked", "credentials", "has been revoked"),
    ("expired", "credentials", "has expired"),
    ("forbidden", "permission", "has not the right"),
])  # fmt: skip
def test_a_key_that_no_longer_opens(world: World, bench: Bench, kind: str, why: str, said: str) -> None:
    """Revoked, run out, or without the right: in the end's own words."""
    bench.misbehave(world, {"call": bench.describing, "kind": kind, "times": 9})
    with pytest.raises(Refused, match=said) as caught:
        bench.open(world).check()
    assert caught.value.why == why


def test_an_end_that_is_not_there_is_away(bench: Bench) -> None:
    """Nothing was sent, so nothing can have happened."""
    limits = Limits(timeout_seconds=0.6, connect_timeout_seconds=0.6)
    opening = Opening(address="http://127.0.0.1:9", credentials=bench.credentials, limits=limits, guard=LOOPBACK)
    with pytest.raises(Away, match=r"127\.0\.0\.1:9 could not be reached"):
        kinds()[bench.kind].open(opening).check()


def test_busy_tells_how_long(world: World, bench: Bench) -> None:
    """Retry-After is passed on."""
    bench.misbehave(world, {"call": bench.describing, "kind": "busy", "seconds": 7})
    with pytest.raises(Busy) as caught:
        bench.open(world).check()
    assert caught.value.retry_after_seconds == 7


@pytest.mark.parametrize("kind", ["broken", "cut", "silent", "late"])
def test_reading_again_does_no_harm_so_no_answer_is_just_away(world: World, bench: Bench, kind: str) -> None:
    """A call that changes nothing may simply be made again."""
    bench.misbehave(world, {"call": bench.describing, "kind": kind, "seconds": 0.1})
    with pytest.raises(Away):
        bench.open(world).check()
    assert bench.open(world).check().company


def test_names_are_loaded(world: World, bench: Bench) -> None:
    """Everything a rulebook may name; the same twice."""
    end = bench.open(world)
    reference = end.master_data()
    assert reference.currency == bench.currency
    assert end.master_data() == reference


HOSTILE = {
    "not JSON": ("application/json", "<html>Maintenance</html>", "not"),
    "a page of HTML": ("text/html", "<html>Maintenance</html>", "text/html"),
    "a list": ("application/json", "[1, 2]", ""),
    "null": ("application/json", "null", ""),
    "nested too deep": ("application/json", "[" * 200_000 + "]" * 200_000, "too deep"),
    "one key twice": ("application/json", '{"name": "A", "name": "B"}', "'name' twice"),
    "no number": ("application/json", '{"name": NaN}', "NaN"),
    "no UTF-8": ("application/json", '{"name": "\udcff\udcfe"}', "not UTF-8"),
    "numbers for names": ("application/json", '{"name": 1, "currency": 2, "time_zone": 3}', ""),
}


@pytest.mark.parametrize("what", sorted(HOSTILE))
def test_a_hostile_answer_is_a_clear_error(world: World, bench: Bench, what: str) -> None:
    """Never a crash, never believed."""
    content_type, body, said = HOSTILE[what]
    rule = {"call": bench.describing, "kind": "said", "times": 9, "content_type": content_type, "body": body}
    bench.misbehave(world, rule)
    with pytest.raises(EndError, match=said or None):
        bench.open(world).check()


def test_a_huge_answer_is_not_read_to_its_end(world: World, bench: Bench) -> None:
    """500 MB are offered; the limit is named."""
    bench.misbehave(world, {"call": bench.describing, "kind": "huge", "times": 9})
    with pytest.raises(Away, match="more than 2000000 bytes"):
        bench.open(world).check()


def test_the_errors_of_ends_are_one_small_tree() -> None:
    """Whoever catches EndError catches them all."""
    assert all(issubclass(kind, EndError) for kind in (Refused, Busy, Away, OutcomeUnknown, NotOffered))
