"""Past documents as a file, and what rules in a repository make of them: the same as the service's own rehearsal."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from inkwell_bridge.demo.facts import facts
from tests.cli.test_cli import command
from tests.cli.test_rulebook_files import inkwell
from tests.service.test_rehearsals import OCTOBER, RULES, put, rehearsed, rules_with
from tests.support.world import BRIDGE, World

CARRIAGE_ELSEWHERE = rules_with(put("/accounts/shipping", "4200"))
DAYS = ("--first", OCTOBER[0].isoformat(), "--last", OCTOBER[1].isoformat())


@pytest.fixture
def repository(october: World, tmp_path: Path) -> Path:
    """Rules as they are and as they might be, October, and the books' reference data."""
    (tmp_path / "rules.yaml").write_text(RULES, "utf-8")
    (tmp_path / "changed.yaml").write_text(CARRIAGE_ELSEWHERE, "utf-8")
    (tmp_path / "books.json").write_text(october.calls.connection("uk-books").reference().model_dump_json(), "utf-8")
    online = command(tmp_path / "profile.json")
    signed_in = {"INKWELL_ADDRESS": october.stack.address, "INKWELL_TOKEN": october.token,
                 "INKWELL_WORKSPACE": october.slug}  # fmt: skip
    done = online("documents", "export", BRIDGE, str(tmp_path / "october.jsonl"), *DAYS, **signed_in)
    assert done.returncode == 0, done.stderr
    return tmp_path


def known(folder: Path) -> tuple[str | Path, ...]:
    """What every plan needs besides its rules."""
    return (folder / "october.jsonl", "--reference", folder / "books.json", "--time-zone", "Europe/London",
            "--country", "GB")  # fmt: skip


def test_the_file_has_every_document_and_nobody(october: World, repository: Path) -> None:
    """As many as the list has that could be understood; no name, no address, no e-mail."""
    text = (repository / "october.jsonl").read_text("utf-8")
    lines = [json.loads(line) for line in text.splitlines()]
    assert {line["kind"] for line in lines} == {"orders"}
    known_numbers = {one.number for one in october.calls.crossings(bridge=BRIDGE)}
    assert {line["document"]["number"] for line in lines} == known_numbers
    assert "@" not in text
    assert all(line["document"]["buyer"] is None for line in lines)
    assert facts()["web_shop"]["secret"] not in text


def test_the_same_rules_change_nothing(repository: Path) -> None:
    """And status 0 lets a check pass."""
    said = inkwell("rulebook", "rehearse", repository / "rules.yaml", repository / "rules.yaml", *known(repository))
    assert "none would change." in said


def test_a_change_comes_to_what_the_service_says_of_it(october: World, repository: Path) -> None:
    """Totals by account and code, before and after, to the penny; status 1 stops a check."""
    both = (repository / "rules.yaml", repository / "changed.yaml")
    found = json.loads(inkwell("rulebook", "rehearse", *both, *known(repository), "--json", "--most", "500", status=1))
    online = rehearsed(october, CARRIAGE_ELSEWHERE)
    assert (found["documents"], found["changed"]) == (online.done, online.changed)

    def moved(totals: list[dict[str, Any]]) -> set[tuple[str, ...]]:
        return {(one["of"], one["code"], one["currency"], str(one["before"]), str(one["after"])) for one in totals
                if one["before"] != one["after"]}  # fmt: skip

    assert moved(found["totals"]) == moved([one.model_dump(mode="json") for one in online.totals])
    assert {code for _, code, *_ in moved(found["totals"])} == {"4100", "4200"}
    changed = {one["number"] for one in found["changed_documents"]}
    assert changed == {one.number for one in october.calls.changed_plans(online.id)}
    said = inkwell("rulebook", "rehearse", *both, *known(repository), status=1)
    assert "account 4100 to 4200" in said


def test_what_no_rule_maps_is_named_with_what_would(repository: Path) -> None:
    """The tax class 'reduced' of October has no code."""
    text = RULES.replace("    standard: S20\n", "")
    assert text != RULES
    (repository / "rules.yaml").write_text(text, "utf-8")
    arguments = ("rulebook", "coverage", repository / "rules.yaml", *known(repository), "--unmapped", "--json")
    values = json.loads(inkwell(*arguments, status=1))
    standard = next(one for one in values if (one["aspect"], one["value"]) == ("tax class", "standard"))
    assert standard["standing"] == "unmapped"
    assert standard["suggestion"]["value"] == "S20"
    assert "mapped by no rule." in inkwell(*arguments[:-1], status=1)


def test_a_refund_without_its_order_is_named(repository: Path) -> None:
    """It cannot be planned, and is not passed over in silence."""
    refund = {"id": "r1", "number": "MW-R-1", "order_id": "none", "order_number": "MW-1", "currency": "GBP",
              "refunded_at": "2026-10-05T10:00:00Z", "changed_at": "2026-10-05T10:00:00Z", "total": "0",
              "tax_total": "0", "prices_include_tax": True}  # fmt: skip
    with (repository / "october.jsonl").open("a", encoding="utf-8") as file:
        file.write(json.dumps({"kind": "refunds", "document": refund}) + "\n")
    said = inkwell("rulebook", "rehearse", repository / "rules.yaml", repository / "rules.yaml", *known(repository))
    assert "Not planned, for their orders are in none of the files: refunds MW-R-1." in said


@pytest.mark.parametrize(("line", "said"), [
    ("x", "past.jsonl, line 2 is no JSON"),
    ("[" * 100_000, "past.jsonl, line 2 is no JSON"),
    ('{"kind": "poems", "document": {}}', "past.jsonl, line 2: expected an object with kind (orders or refunds)"),
    ('{"kind": "orders", "document": {"id": "1"}}', "past.jsonl, line 2, /"),
])  # fmt: skip
def test_a_wrong_line_is_named(repository: Path, line: str, said: str) -> None:
    """With its file and number; status 5."""
    first = (repository / "october.jsonl").read_text("utf-8").splitlines()[0]
    (repository / "past.jsonl").write_text(f"{first}\n{line}\n", "utf-8")
    options = known(repository)[1:]
    rules = repository / "rules.yaml"
    assert said in inkwell("rulebook", "rehearse", rules, rules, repository / "past.jsonl", *options, status=5)
    assert said in inkwell("rulebook", "coverage", rules, repository / "past.jsonl", *options, status=5)


def test_a_refused_export_leaves_no_file(october: World, tmp_path: Path) -> None:
    """Days the wrong way round."""
    call = command(tmp_path / "profile.json")
    done = call("documents", "export", BRIDGE, str(tmp_path / "none.jsonl"), "--first", "2026-10-31", "--last",
                "2026-10-01", INKWELL_ADDRESS=october.stack.address, INKWELL_TOKEN=october.token,
                INKWELL_WORKSPACE=october.slug)  # fmt: skip
    assert done.returncode == 5
    assert "The last day lies before the first." in done.stderr
    assert not (tmp_path / "none.jsonl").exists()
