"""A new user's first hour: the guide, word by word, on the demo with nothing connected."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import httpx

from tests.support.guide import Reader, alike, empty_demo, story

FEW = 40


def test_the_guide_is_true_word_by_word(tmp_path: Path, new_database: Any) -> None:
    """From nothing connected to a week of orders carried and proved: every command answers what stands below it."""
    steps = story()
    assert 15 < sum("inkwell " in step.command for step in steps) < FEW
    folder = tmp_path / "reader"
    folder.mkdir()
    with empty_demo(tmp_path, new_database("first_hour")) as environment:
        reader = Reader(tmp_path, folder, environment)
        for step in steps:
            assert alike(reader.does(step.command)) == alike(step.answer), step.command
        carried = json.loads(reader.does("inkwell documents list --state carried --limit 0 --json"))
    # Of the 44 orders of that week and a day: cancelled or unpaid five, without currency one.
    assert len(carried) == 38
    assert {made["state"] for order in carried for made in order["documents"]} == {"proved"}


def test_what_the_guide_connects_is_where_the_demo_says(tmp_path: Path, new_database: Any) -> None:
    """It prints every end with its kind, its address and what opens it."""
    with empty_demo(tmp_path, new_database("printed")):
        printed = (tmp_path / "demo.log").read_text("utf-8")
        address = printed.partition("--kind erp --address ")[2].partition("\n")[0]
        invoices = httpx.get(f"{address}/control/contents").json()["invoice"]
        # Nothing was carried: there is what the office typed in.
        assert [one["number"] for one in invoices] == ["SI-09001", "SI-09002", "SI-09003", "SI-09004"]
    assert "Marrowby web shop: --kind web-shop --address http://127.0.0.1:" in printed
    assert "      secret: mwshop-demo-secret-0b1f" in printed
