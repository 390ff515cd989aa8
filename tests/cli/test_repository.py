"""Rules and configurations as files of a repository: taken out, brought back, compared, applied."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.cli.test_cli import Inkwell, working_for
from tests.support.world import BRIDGE, World, invoices_alone

RULES = invoices_alone()


@pytest.fixture
def inkwell(world: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for a world of its own."""
    return working_for(world, tmp_path)


def test_rules_go_out_and_come_back(world: World, inkwell: Inkwell, tmp_path: Path) -> None:
    """With what they build on; what was not changed is not written again."""
    folder, calls = tmp_path / "rules", world.calls.bridge(BRIDGE)
    text, _, penny = RULES.partition("\npenny:")
    (folder).mkdir()
    (folder / "rulebook.yaml").write_text(text.replace("rulebook: 1\n", "rulebook: 1\nbased_on: house.yaml\n", 1))
    (folder / "house.yaml").write_text(f"rulebook: 1\npenny:{penny}")
    done = inkwell("rulebooks", "push", BRIDGE, str(folder), "--publish", "--note", "From the repository")
    assert done.returncode == 0, done.stderr
    assert "house.yaml is written." in done.stderr
    assert "Version 2 is in force." in done.stderr
    assert next(iter(calls.rulebooks())).note == "From the repository"
    again = inkwell("rulebooks", "push", BRIDGE, str(folder), "--publish")
    assert "Version 2 says this already." in again.stderr
    assert len(list(calls.rulebooks())) == 2
    done = inkwell("rulebooks", "pull", BRIDGE, str(tmp_path / "out"))
    assert done.returncode == 0, done.stderr
    for name in ("rulebook.yaml", "house.yaml"):
        assert (tmp_path / "out" / name).read_text() == (folder / name).read_text()
    (folder / "house.yaml").write_text(f"# Agreed in October.\nrulebook: 1\npenny:{penny}")
    changed = inkwell("rulebooks", "push", BRIDGE, str(folder))
    assert "house.yaml is written." in changed.stderr
    assert "Version 3 is written." in changed.stderr
    (folder / "rulebook.yaml").write_text("rulebook: 1\norders: {become: poem}\n")
    wrong = inkwell("rulebooks", "push", BRIDGE, str(folder))
    assert wrong.returncode == 5
    assert "poem" in wrong.stderr
    assert len(list(calls.rulebooks())) == 3


def test_a_configuration_is_compared_and_applied(world: World, inkwell: Inkwell, tmp_path: Path) -> None:
    """Status 1 where anything differs; it asks before it changes anything; then there is no difference."""
    folder = tmp_path / "october"
    done = inkwell("bridges", "pull", BRIDGE, str(folder))
    assert done.returncode == 0, done.stderr
    assert {file.name for file in folder.iterdir()} >= {"configuration.yaml", "rulebook.yaml"}
    assert (folder / "rulebook.yaml").read_text() == RULES
    same = inkwell("bridges", "compare", BRIDGE, str(folder))
    assert (same.returncode, same.stdout.strip()) == (0, "There is no difference.")
    (folder / "rulebook.yaml").write_text(RULES.replace('"4100"', '"4200"'))
    head = (folder / "configuration.yaml").read_text()
    (folder / "configuration.yaml").write_text(
        f"{head}timetable:\n  rule: FREQ=MINUTELY;INTERVAL=15\n  time_zone: Europe/London\n"
    )
    # A repository has other things too.
    (folder / "logo.png").write_bytes(b"\xff\xd8")
    found = inkwell("bridges", "compare", BRIDGE, str(folder))
    assert found.returncode == 1
    assert "rules: accounts, shipping: was '4100', is '4200'." in found.stdout
    assert "timetable: It would run every 15 minutes; there is none now." in found.stdout
    unasked = inkwell("bridges", "apply", BRIDGE, str(folder))
    assert unasked.returncode != 0
    assert world.calls.bridge(BRIDGE).read().rulebook_in_force == 1
    done = inkwell("bridges", "apply", BRIDGE, str(folder), "--yes")
    assert done.returncode == 0, done.stderr
    assert f"The configuration was applied to {BRIDGE}. Version 2 of the rules is in force." in done.stderr
    assert inkwell("bridges", "compare", BRIDGE, str(folder)).returncode == 0


@pytest.mark.parametrize(("files", "said"), [
    ({}, "a file configuration.yaml, as inkwell bridges pull writes it"),
    ({"configuration.yaml": "{"}, "configuration.yaml"),
    ({"configuration.yaml": "[]"}, "lanes, timetable"),
    ({"configuration.yaml": "configuration: 1\nsource: web-shop\nbooks: erp\nbases: [house.yaml]\n"},
     "a file house.yaml beside it"),
    ({"configuration.yaml": "configuration: 1\nsource: web-shop\nbooks: erp\n", "links-products.csv": "a,b\n1,2\n"},
     "the columns code, to, quantity, share"),
])  # fmt: skip
def test_a_wrong_folder_is_named(inkwell: Inkwell, tmp_path: Path, files: dict[str, str], said: str) -> None:
    """With the file that is wrong; status 5."""
    folder = tmp_path / "wrong"
    folder.mkdir()
    for name, text in files.items():
        (folder / name).write_text(text)
    done = inkwell("bridges", "compare", BRIDGE, str(folder))
    assert done.returncode == 5, done.stderr
    assert said in done.stderr
